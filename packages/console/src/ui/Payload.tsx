import styled from 'styled-components';
import { color, corner, space } from '../theme/tokens.js';

/** A body for reading: as it is, wrapped, and scrolled when it is long. */
export const Payload = styled.pre`
  margin: 0;
  padding: ${space.s};
  max-height: 220px;
  overflow: auto;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  background: ${color.sunken};
  border-radius: ${corner};
`;
