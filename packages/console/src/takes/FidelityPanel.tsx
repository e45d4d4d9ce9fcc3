import type { DraftView } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, space } from '../theme/tokens.js';
import { formatCount } from '../ui/format.js';
import { Method } from '../ui/Method.js';
import { Faint, Panel } from '../ui/Panel.js';

const MOST_SHOWN = 12;

const Share = styled.p`
  display: flex;
  align-items: baseline;
  gap: ${space.s};
  strong { font-size: 22px; font-variant-numeric: tabular-nums; }
  &[data-whole] strong { color: ${color.lichen}; }
  &:not([data-whole]) strong { color: ${color.vermilion}; }
`;

const Differences = styled.ul`
  margin: 0;
  padding-left: ${space.l};
  font-size: 14px;
  li { overflow-wrap: anywhere; }
`;

/** How the take's own session fares against the draft. */
export function FidelityPanel({ fidelity }: { readonly fidelity: NonNullable<DraftView['fidelity']> }) {
  const { exchanges, asHeard, differences } = fidelity;
  const isWhole = asHeard === exchanges;
  const percent = exchanges === 0 ? 100 : Math.floor((asHeard / exchanges) * 1000) / 10;
  return (
    <Panel aria-label="Fidelity">
      <h2>Fidelity</h2>
      <Share data-whole={isWhole ? true : undefined}>
        <strong>
          {isWhole ? '●' : '✕'} {percent} %
        </strong>
        <span>
          {asHeard} of {formatCount(exchanges, 'exchange')} answered as heard
        </span>
      </Share>
      {differences.length > 0 && (
        <Differences>
          {differences.slice(0, MOST_SHOWN).map((item) => (
            <li key={`${item.index} ${item.at}`}>
              #{item.index} <Method name={item.method} /> <code>{item.path}</code> <Faint>{item.at}:</Faint> heard{' '}
              <code>{item.heard}</code>, given <code>{item.given}</code>
            </li>
          ))}
        </Differences>
      )}
      {differences.length > MOST_SHOWN && <Faint>and {differences.length - MOST_SHOWN} more</Faint>}
    </Panel>
  );
}
