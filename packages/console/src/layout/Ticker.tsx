import { Link } from '@tanstack/react-router';
import type { CallSummary } from '@upsetter/core/wire';
import { useState } from 'react';
import styled from 'styled-components';
import { foldPreflights } from '../calls/preflights.js';
import { useCallFeed } from '../live/useCallFeed.js';
import { color, space } from '../theme/tokens.js';
import { Button } from '../ui/Button.js';
import { formatMs, formatTime } from '../ui/format.js';
import { answeredByText, OutcomeMark } from '../ui/Outcome.js';
import { Faint } from '../ui/Panel.js';

const SHOWN = 60;

const Strip = styled.aside`
  width: 248px;
  display: flex;
  flex-direction: column;
  border-left: 1px solid ${color.hairline};
  background: ${color.panel};
  min-height: 0;
  &[data-folded] { width: 40px; }
`;

const Head = styled.div`
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding: ${space.xs} ${space.s};
  border-bottom: 1px solid ${color.hairline};
  font-size: 13px;
`;

const List = styled.ol`
  list-style: none;
  margin: 0;
  padding: 0;
  overflow-y: auto;
  flex: 1;
  a {
    display: grid;
    grid-template-columns: 12px minmax(0, 1fr) auto;
    column-gap: ${space.s};
    align-items: baseline;
    padding: ${space.xs} ${space.s};
    border-bottom: 1px solid ${color.hairline};
    color: inherit;
    text-decoration: none;
    font-size: 13px;
    line-height: 1.3;
  }
  a:hover { background: ${color.sunken}; }
  .by { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .at { grid-column: 2; color: ${color.faint}; }
  .own { color: ${color.faint}; text-align: right; }
  .own[data-upset] { color: ${color.plum}; }
`;

/** The newest calls on top, live, at the right edge of every place. Folds away. */
export function Ticker() {
  const { calls, connected } = useCallFeed();
  const [isFolded, setFolded] = useState(false);
  if (isFolded) {
    return (
      <Strip data-folded aria-label="Latest calls">
        <Button data-kind="quiet" aria-label="Unfold the latest calls" onPress={() => setFolded(false)}>
          ‹
        </Button>
      </Strip>
    );
  }
  return (
    <Strip aria-label="Latest calls">
      <Head>
        <span>
          Latest calls <Faint>{connected ? 'live' : 'connecting ...'}</Faint>
        </span>
        <Button data-kind="quiet" aria-label="Fold the latest calls away" onPress={() => setFolded(true)}>
          ›
        </Button>
      </Head>
      <List>
        {foldPreflights(calls)
          .slice(0, SHOWN)
          .map((call) => (
            <Row key={call.id} call={call} />
          ))}
      </List>
    </Strip>
  );
}

function Row({ call }: { readonly call: CallSummary }) {
  return (
    <li>
      <Link to="/calls/$id" params={{ id: call.id }}>
        <OutcomeMark call={call} />
        <span className="by">{answeredByText(call)}</span>
        <span className="own">{call.status ?? '...'}</span>
        <span className="at">{formatTime(call.at)}</span>
        <span className="own" data-upset={call.delayGivenMs > 0 ? true : undefined}>
          {call.state === 'in flight'
            ? ''
            : call.delayGivenMs > 0
              ? `▲ ${formatMs(call.delayGivenMs)}`
              : formatMs(call.ownMs)}
        </span>
      </Link>
    </li>
  );
}
