import styled from 'styled-components';
import { color, corner, space } from '../theme/tokens.js';

/** A framed part of a page, with its name as heading. */
export const Panel = styled.section`
  background: ${color.panel};
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  padding: ${space.m} ${space.l};
  display: flex;
  flex-direction: column;
  gap: ${space.s};
  min-width: 0;
  h2 { font-size: 15px; }
`;

export const Faint = styled.span`
  color: ${color.faint};
`;

/** What went wrong, announced. */
export const Trouble = styled.p.attrs({ role: 'alert' })`
  color: ${color.vermilion};
  white-space: pre-wrap;
`;

/** An empty place says what to do first. */
export const Empty = styled.div`
  padding: ${space.xl};
  border: 1px dashed ${color.hairline};
  border-radius: ${corner};
  color: ${color.faint};
  code { color: ${color.ink}; }
`;
