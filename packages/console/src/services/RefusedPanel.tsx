import type { ServiceView } from '@upsetter/core/wire';
import styled from 'styled-components';
import { space } from '../theme/tokens.js';
import { formatTime } from '../ui/format.js';
import { Faint, Panel } from '../ui/Panel.js';

const List = styled.ul`
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: ${space.s};
`;

/** Connections on which TLS could not be opened: no call came of them, so the log does not have them. */
export function RefusedPanel({ refused }: { readonly refused: ServiceView['refusedConnections'] }) {
  if (refused.length === 0) return null;
  return (
    <Panel aria-label="Connections that came to nothing">
      <h2>Connections that came to nothing</h2>
      <List>
        {refused.map(({ at, from, reason, times }) => (
          <li key={`${from} ${reason}`}>
            {reason}{' '}
            <Faint>
              ({describeTimes(times)}
              {from === null ? '' : `, from ${from}`}, last at {formatTime(at)})
            </Faint>
          </li>
        ))}
      </List>
    </Panel>
  );
}

function describeTimes(times: number): string {
  return times === 1 ? 'once' : `${times} times`;
}
