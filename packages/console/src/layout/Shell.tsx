import { Link, Outlet } from '@tanstack/react-router';
import styled from 'styled-components';
import mark from '../mark.svg';
import { color, space } from '../theme/tokens.js';
import { Ticker } from './Ticker.js';

const Frame = styled.div`
  height: 100%;
  display: grid;
  grid-template: 48px 1fr / minmax(0, 1fr) auto;
`;

const Bar = styled.header`
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: ${space.xl};
  padding: 0 ${space.xl};
  border-bottom: 1px solid ${color.hairline};
  background: ${color.panel};
`;

const Brand = styled(Link)`
  display: flex;
  align-items: center;
  gap: ${space.s};
  font-weight: 700;
  font-size: 18px;
  color: ${color.ink};
  text-decoration: none;
  img { width: 24px; height: 24px; }
`;

const Places = styled.nav`
  display: flex;
  gap: ${space.l};
  height: 100%;
  a {
    display: flex;
    align-items: center;
    color: ${color.ink};
    text-decoration: none;
    border-bottom: 2px solid transparent;
    border-top: 2px solid transparent;
  }
  a.active { border-bottom-color: ${color.water}; color: ${color.water}; font-weight: 700; }
`;

const Main = styled.main`
  overflow: auto;
  padding: ${space.l} ${space.xl} ${space.xl};
`;

/** Every page: the places above, the ticker at the right edge. */
export function Shell() {
  return (
    <Frame>
      <Bar>
        <Brand to="/services">
          <img src={mark} alt="" />
          Upsetter
        </Brand>
        <Places aria-label="Places">
          <Link to="/services">Services</Link>
          <Link to="/takes">Takes</Link>
          <Link to="/calls">Calls</Link>
          <Link to="/contracts">Contracts</Link>
        </Places>
      </Bar>
      <Main>
        <Outlet />
      </Main>
      <Ticker />
    </Frame>
  );
}
