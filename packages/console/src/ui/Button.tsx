import { Button as AriaButton } from 'react-aria-components';
import styled from 'styled-components';
import { color, corner, space } from '../theme/tokens.js';

/** The button. `data-kind="main"` for the one action a panel is about. */
export const Button = styled(AriaButton)`
  padding: ${space.xs} ${space.m};
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  background: ${color.panel};
  color: ${color.ink};
  font: inherit;
  cursor: pointer;
  white-space: nowrap;
  &[data-hovered] { border-color: ${color.water}; }
  &[data-pressed] { background: ${color.sunken}; }
  &[data-disabled] { opacity: 0.5; cursor: default; }
  &[data-kind='main'] { background: ${color.water}; border-color: ${color.water}; color: ${color.onWater}; }
  &[data-kind='faint'] { border-color: transparent; background: transparent; color: ${color.faint}; padding: 0 ${space.xs}; font-size: 13px; }
  &[data-kind='faint'][data-hovered] { color: ${color.water}; }
  &[data-kind='quiet'] { border-color: transparent; background: transparent; color: ${color.water}; padding: 0 ${space.xs}; }
`;
