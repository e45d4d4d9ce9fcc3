import styled from 'styled-components';
import type { TriedCall } from '../calls/tried-calls.js';
import { color, space } from '../theme/tokens.js';
import { Method } from '../ui/Method.js';
import { Faint } from '../ui/Panel.js';

const List = styled.ul`
  list-style: none;
  margin: ${space.xs} 0 0;
  padding: 0;
  max-height: 180px;
  overflow-y: auto;
  button {
    all: unset;
    box-sizing: border-box;
    width: 100%;
    padding: 2px ${space.xs};
    cursor: pointer;
    font-size: 13px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  button:hover { background: ${color.sunken}; }
  button:focus-visible { outline: 2px solid ${color.water}; outline-offset: -2px; }
`;

export interface TryHistoryProps {
  readonly calls: readonly TriedCall[];
  readonly onChoose: (call: TriedCall) => void;
}

/** Calls that were tried before; one that is chosen stands in the fields again. */
export function TryHistory({ calls, onChoose }: TryHistoryProps) {
  if (calls.length === 0) return null;
  return (
    <details>
      <summary>
        <Faint>tried before ({calls.length})</Faint>
      </summary>
      <List>
        {calls.map((call) => (
          <li key={JSON.stringify(call)}>
            <button type="button" onClick={() => onChoose(call)}>
              <Method name={call.method} /> {call.path} <Faint>{call.body.slice(0, 60)}</Faint>
            </button>
          </li>
        ))}
      </List>
    </details>
  );
}
