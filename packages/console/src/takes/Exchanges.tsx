import { getRouteApi, Link } from '@tanstack/react-router';
import type { ExchangeSummary } from '@upsetter/core/wire';
import styled, { css } from 'styled-components';
import { color, space } from '../theme/tokens.js';
import { Checkbox } from '../ui/Checkbox.js';
import { formatMs, formatTime } from '../ui/format.js';
import { LongList, longListHeads, longListRow } from '../ui/LongList.js';
import { Method } from '../ui/Method.js';
import { Faint } from '../ui/Panel.js';
import { ExchangePanel } from './ExchangePanel.js';

const route = getRouteApi('/takes/$name');

const Columns = css`
  display: grid;
  grid-template-columns: 24px 44px 104px minmax(0, 1fr) 48px 76px;
  gap: ${space.s};
  align-items: center;
  padding: 0 ${space.m};
`;

const Heads = styled.div`
  ${Columns}
  ${longListHeads}
`;

const Row = styled.div`
  ${Columns}
  ${longListRow}
  font-size: 14px;
  &[data-current] { background: ${color.sunken}; }
  &[data-left] { opacity: 0.55; text-decoration: line-through; }
  a { color: inherit; text-decoration: inherit; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .failed { color: ${color.vermilion}; }
  .took { text-align: right; color: ${color.faint}; }
`;

const Note = styled(Faint)`
  display: block;
  margin-top: ${space.xs};
`;

export interface ExchangesProps {
  readonly take: string;
  readonly exchanges: readonly ExchangeSummary[];
  /** Those left out of the draft, by index. */
  readonly left: ReadonlySet<number>;
  readonly onLeave: (left: ReadonlySet<number>) => void;
}

/** What was heard, in order; a tick keeps an exchange in the draft. */
export function Exchanges({ take, exchanges, left, onLeave }: ExchangesProps) {
  const { exchange: shown } = route.useSearch();
  const isMixed = new Set(exchanges.map(({ origin }) => origin)).size > 1;
  const leave = (index: number, isKept: boolean): void => {
    const next = new Set(left);
    if (isKept) next.delete(index);
    else next.add(index);
    onLeave(next);
  };
  return (
    <>
      <Heads>
        <span />
        <span>#</span>
        <span>time</span>
        <span>request</span>
        <span>status</span>
        <span>first byte</span>
      </Heads>
      <LongList
        items={exchanges}
        keyOf={({ index }) => index}
        row={(exchange, top) => (
          <ExchangeRow
            take={take}
            exchange={exchange}
            isMixed={isMixed}
            top={top}
            isCurrent={exchange.index === shown}
            isLeft={left.has(exchange.index)}
            onKeep={(isKept) => leave(exchange.index, isKept)}
          />
        )}
        height={shown === undefined ? 'calc(100vh - 260px)' : '230px'}
      />
      <Note>
        {exchanges.length - left.size} of {exchanges.length} go into the draft. Preflights and a page's own files are
        left out by themselves.
      </Note>
      {shown !== undefined && <ExchangePanel take={take} index={shown} />}
    </>
  );
}

interface RowProps {
  readonly take: string;
  readonly exchange: ExchangeSummary;
  /** Several origins were heard: each is shown. */
  readonly isMixed: boolean;
  readonly top: number;
  readonly isCurrent: boolean;
  readonly isLeft: boolean;
  readonly onKeep: (isKept: boolean) => void;
}

function ExchangeRow({ take, exchange, isMixed, top, isCurrent, isLeft, onKeep }: RowProps) {
  const { index, status, trouble } = exchange;
  return (
    <Row style={{ top }} data-current={isCurrent ? true : undefined} data-left={isLeft ? true : undefined}>
      <Checkbox isSelected={!isLeft} onChange={onKeep} label={`Keep exchange ${index} in the draft`} />
      <Faint>{index}</Faint>
      <Faint>{formatTime(exchange.at)}</Faint>
      <Link to="/takes/$name" params={{ name: take }} search={{ exchange: index }}>
        <Method name={exchange.method} /> {isMixed && <Faint>{exchange.origin}</Faint>}
        {exchange.url}
        {trouble !== null && <span className="failed"> ✕ {trouble}</span>}
      </Link>
      <span className={status === 0 ? 'failed' : ''}>{status === 0 ? 'none' : status}</span>
      <span className="took">{formatMs(exchange.firstByteMs)}</span>
    </Row>
  );
}
