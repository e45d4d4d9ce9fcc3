import type { SentCallback } from '@upsetter/core/wire';
import styled from 'styled-components';
import { color, font, space } from '../theme/tokens.js';
import { formatMs } from '../ui/format.js';
import { Faint, Panel } from '../ui/Panel.js';

const List = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  > li { padding: ${space.s} 0; border-top: 1px solid ${color.hairline}; overflow-wrap: anywhere; }
  > li:first-child { border-top: none; }
  code, pre { font: 12.5px ${font.mono}; }
  pre { margin: ${space.xs} 0 0; white-space: pre-wrap; }
  ol { margin: ${space.xs} 0 0; padding-left: ${space.l}; }
  [data-state='arrived'] { color: ${color.lichen}; }
  [data-state='failed'] { color: ${color.vermilion}; }
  [data-state='waiting'], [data-state='given up'] { color: ${color.brass}; }
`;

/** The calls that this one led to, with each of their tries. */
export function Callbacks({ callbacks }: { readonly callbacks: readonly SentCallback[] }) {
  return (
    <Panel aria-label="Callbacks">
      <h2>Called back</h2>
      <List>
        {callbacks.map((own, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: they are in the order of the file and never move
          <li key={i}>
            <code>
              {own.method} {own.to}
            </code>{' '}
            <span data-state={own.state}>{own.state}</span>
            {own.body !== null && <pre>{own.body}</pre>}
            <ol>
              {own.tries.map(({ atMs, status, trouble, tookMs, body }) => (
                <li key={atMs}>
                  {trouble ?? `${status} in ${formatMs(tookMs)}`} {body !== null && <Faint>{body}</Faint>}
                </li>
              ))}
            </ol>
          </li>
        ))}
      </List>
    </Panel>
  );
}
