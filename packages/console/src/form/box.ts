import { css } from 'styled-components';
import { color, corner, font, space } from '../theme/tokens.js';

/** What one types into, in a form of a file. */
export const box = css`
  padding: 2px ${space.s};
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  background: ${color.panel};
  color: ${color.ink};
  font: 13px/1.5 ${font.mono};
  width: 100%;
  box-sizing: border-box;
  &[data-invalid], &[aria-invalid='true'] { border-color: ${color.vermilion}; }
`;
