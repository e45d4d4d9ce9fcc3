import { getRouteApi, Link } from '@tanstack/react-router';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { ExchangeSummary } from '@upsetter/core/wire';
import { useRef } from 'react';
import styled, { css } from 'styled-components';
import { color, corner, space } from '../theme/tokens.js';
import { Checkbox } from '../ui/Checkbox.js';
import { formatMs, formatTime } from '../ui/format.js';
import { Method } from '../ui/Method.js';
import { Faint } from '../ui/Panel.js';
import { ExchangePanel } from './ExchangePanel.js';

const route = getRouteApi('/takes/$name');
const ROW_PX = 30;

const Columns = css`
  display: grid;
  grid-template-columns: 24px 44px 104px minmax(0, 1fr) 48px 76px;
  gap: ${space.s};
  align-items: center;
  padding: 0 ${space.m};
`;

const Heads = styled.div`
  ${Columns}
  font-size: 13px;
  color: ${color.faint};
  span:last-child { text-align: right; }
`;

const Scroll = styled.div`
  height: calc(100vh - 260px);
  overflow: auto;
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  background: ${color.panel};
  &[data-beside] { height: 230px; }
`;

const Row = styled.div`
  ${Columns}
  position: absolute;
  left: 0;
  right: 0;
  height: ${ROW_PX}px;
  border-bottom: 1px solid ${color.hairline};
  font-size: 14px;
  &[data-current] { background: ${color.sunken}; }
  &[data-left] { opacity: 0.55; text-decoration: line-through; }
  a { color: inherit; text-decoration: inherit; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
  .failed { color: ${color.vermilion}; }
  .took { text-align: right; color: ${color.faint}; }
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
  const scroll = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: exchanges.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
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
      <Scroll ref={scroll} data-beside={shown === undefined ? undefined : true}>
        <div style={{ position: 'relative', height: rows.getTotalSize() }}>
          {rows.getVirtualItems().map(({ index, start }) => {
            const exchange = exchanges[index];
            if (exchange === undefined) return null;
            return (
              <ExchangeRow
                key={exchange.index}
                take={take}
                exchange={exchange}
                top={start}
                isCurrent={exchange.index === shown}
                isLeft={left.has(exchange.index)}
                onKeep={(isKept) => leave(exchange.index, isKept)}
              />
            );
          })}
        </div>
      </Scroll>
      <Faint>
        {exchanges.length - left.size} of {exchanges.length} go into the draft. Preflights and a page's own files are
        left out by themselves.
      </Faint>
      {shown !== undefined && <ExchangePanel take={take} index={shown} />}
    </>
  );
}

interface RowProps {
  readonly take: string;
  readonly exchange: ExchangeSummary;
  readonly top: number;
  readonly isCurrent: boolean;
  readonly isLeft: boolean;
  readonly onKeep: (isKept: boolean) => void;
}

function ExchangeRow({ take, exchange, top, isCurrent, isLeft, onKeep }: RowProps) {
  const { index, status, trouble } = exchange;
  return (
    <Row style={{ top }} data-current={isCurrent ? true : undefined} data-left={isLeft ? true : undefined}>
      <Checkbox isSelected={!isLeft} onChange={onKeep} label={`Keep exchange ${index} in the draft`} />
      <Faint>{index}</Faint>
      <Faint>{formatTime(exchange.at)}</Faint>
      <Link to="/takes/$name" params={{ name: take }} search={{ exchange: index }}>
        <Method name={exchange.method} /> {exchange.url}
        {trouble !== null && <span className="failed"> ✕ {trouble}</span>}
      </Link>
      <span className={status === 0 ? 'failed' : ''}>{status === 0 ? 'none' : status}</span>
      <span className="took">{formatMs(exchange.firstByteMs)}</span>
    </Row>
  );
}
