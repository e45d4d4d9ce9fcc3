import type { CallFinding } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, font, space } from '../theme/tokens.js';
import { Faint, Panel } from '../ui/Panel.js';

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  li { padding: ${space.xs} 0; border-top: 1px solid ${color.hairline}; overflow-wrap: anywhere; }
  li:first-child { border-top: none; }
  code { font: 12.5px ${font.mono}; }
  .refused { color: ${color.vermilion}; }
  .told { color: ${color.brass}; }
`;

/** How a call and its answer differ from the contract: where, in what way, by which rule. */
export function Findings({ findings }: { readonly findings: readonly CallFinding[] }) {
  return (
    <Panel aria-label="Findings">
      <h2>Differs from the contract</h2>
      <List>
        {findings.map(({ in: side, at, message, rule, refusal }) => (
          <li key={`${side} ${at} ${message}`}>
            <Faint>{side}</Faint> <code>{at}</code>{' '}
            <span className={refusal === null ? 'told' : 'refused'}>{message}</span> <Faint>{rule}</Faint>
          </li>
        ))}
      </List>
    </Panel>
  );
}
