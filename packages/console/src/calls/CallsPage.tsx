import { useQuery } from '@tanstack/react-query';
import { getRouteApi, Link } from '@tanstack/react-router';
import type { CallSummary } from '@upsetter/core/wire';
import styled, { css } from 'styled-components';
import { describeError } from '../api/describe-error.js';
import { servicesQuery } from '../api/queries.js';
import { color, space } from '../theme/tokens.js';
import { formatCount, formatMs, formatTime } from '../ui/format.js';
import { LongList, longListHeads, longListRow } from '../ui/LongList.js';
import { Method } from '../ui/Method.js';
import { answeredByText, OutcomeMark } from '../ui/Outcome.js';
import { Empty, Faint, Trouble } from '../ui/Panel.js';
import { foldPreflights } from './preflights.js';
import { useCallList } from './useCallList.js';

const route = getRouteApi('/calls');

const Choice = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: ${space.s} ${space.l};
  margin: ${space.xs} 0 ${space.m};
  a[data-current] { font-weight: 700; text-decoration: none; color: ${color.ink}; }
`;

const Columns = css`
  display: grid;
  grid-template-columns: 14px 100px 110px minmax(0, 1.4fr) minmax(0, 1.2fr) 40px 78px;
  gap: ${space.m};
  align-items: center;
  padding: 0 ${space.m};
`;

const Heads = styled.div`
  ${Columns}
  ${longListHeads}
`;

const Row = styled.div`
  ${longListRow}
  a {
    ${Columns}
    height: 100%;
    color: inherit;
    text-decoration: none;
    font-size: 14px;
  }
  a:hover { background: ${color.sunken}; }
  a > span { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .findings { color: ${color.brass}; }
  .own { text-align: right; color: ${color.faint}; }
  .own[data-upset] { color: ${color.plum}; }
`;

/** The calls received, newest first: all, of one service, only strays, only those that differ from a contract. */
export function CallsPage() {
  const { preflights, ...selection } = route.useSearch();
  const { data: services } = useQuery(servicesQuery);
  const list = useCallList(selection);
  const shown = preflights === true ? list.calls : foldPreflights(list.calls);
  const folded = list.calls.length - shown.length;
  return (
    <>
      <h1>Calls</h1>
      <Choice aria-label="Which calls">
        <Link to="/calls" search={{}} data-current={Object.keys(selection).length === 0 ? true : undefined}>
          all
        </Link>
        <Link
          to="/calls"
          search={{ ...selection, strays: true }}
          data-current={selection.strays === true ? true : undefined}
        >
          strays
        </Link>
        <Link
          to="/calls"
          search={{ ...selection, findings: true }}
          data-current={selection.findings === true ? true : undefined}
        >
          findings
        </Link>
        {(folded > 0 || preflights === true) && (
          <Link
            to="/calls"
            search={preflights === true ? selection : { ...selection, preflights: true }}
            data-current={preflights === true ? true : undefined}
          >
            {preflights === true ? 'preflights' : formatCount(folded, 'preflight')}
          </Link>
        )}
        {services?.map(({ name }) => (
          <Link
            key={name}
            to="/calls"
            search={{ service: name }}
            data-current={selection.service === name ? true : undefined}
          >
            {name}
          </Link>
        ))}
      </Choice>
      {list.error !== null && <Trouble>{describeError(list.error)}</Trouble>}
      {list.isEmpty ? (
        <Empty>No calls yet. Point the application at an address of a service, or try a call there.</Empty>
      ) : (
        <CallRows calls={shown} onEnd={list.readMore} />
      )}
    </>
  );
}

function CallRows({ calls, onEnd }: { readonly calls: readonly CallSummary[]; readonly onEnd: () => void }) {
  return (
    <>
      <Heads>
        <span />
        <span>time</span>
        <span>service</span>
        <span>request</span>
        <span>answered by</span>
        <span>status</span>
        <span>took</span>
      </Heads>
      <LongList
        items={calls}
        keyOf={({ id }) => id}
        row={(call, top) => <CallRow call={call} top={top} />}
        height="calc(100vh - 210px)"
        onEnd={onEnd}
      />
    </>
  );
}

function CallRow({ call, top }: { readonly call: CallSummary; readonly top: number }) {
  return (
    <Row style={{ top }}>
      <Link to="/calls/$id" params={{ id: call.id }}>
        <OutcomeMark call={call} />
        <Faint>{formatTime(call.at)}</Faint>
        <span>{call.service}</span>
        <span>
          <Method name={call.method} /> {call.url}
        </span>
        <span>
          {answeredByText(call)}
          {call.findings > 0 && <span className="findings"> {formatCount(call.findings, 'finding')}</span>}
        </span>
        <span>{call.status ?? '...'}</span>
        <span className="own" data-upset={call.delayGivenMs > 0 ? true : undefined}>
          {call.delayGivenMs > 0 ? '▲ ' : ''}
          {call.state === 'in flight' ? '' : formatMs(call.totalMs)}
        </span>
      </Link>
    </Row>
  );
}
