import { useVirtualizer } from '@tanstack/react-virtual';
import { Fragment, type ReactNode, useEffect, useRef } from 'react';
import styled, { css } from 'styled-components';
import { color, corner } from '../theme/tokens.js';

const ROW_PX = 30;
const BORDERS_PX = 2;

const Scroll = styled.div`
  overflow: auto;
  border: 1px solid ${color.hairline};
  border-radius: ${corner};
  background: ${color.panel};
`;

const Inner = styled.div`
  position: relative;
`;

/** How the heads over a long list look; their columns are the list's own. */
export const longListHeads = css`
  font-size: 13px;
  color: ${color.faint};
  span:last-child { text-align: right; }
`;

/** Where a row of a long list stands; `top` comes with it. */
export const longListRow = css`
  position: absolute;
  left: 0;
  right: 0;
  height: ${ROW_PX}px;
  border-bottom: 1px solid ${color.hairline};
`;

export interface LongListProps<Item> {
  readonly items: readonly Item[];
  readonly keyOf: (item: Item) => string | number;
  /** A row with `longListRow`, `top` pixels from the beginning. */
  readonly row: (item: Item, top: number) => ReactNode;
  /** The most it takes up, a CSS length. */
  readonly height: string;
  /** The last item came into sight: there may be more to read. */
  readonly onEnd?: () => void;
}

/** A list of any length, of which only the rows in sight are drawn. */
export function LongList<Item>({ items, keyOf, row, height, onEnd }: LongListProps<Item>) {
  const scroll = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  const shown = rows.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  useEffect(() => {
    if (items.length > 0 && last >= items.length - 1) onEnd?.();
  }, [last, items.length, onEnd]);
  return (
    <Scroll ref={scroll} style={{ height: `min(${height}, ${items.length * ROW_PX + BORDERS_PX}px)` }}>
      <Inner style={{ height: rows.getTotalSize() }}>
        {shown.map(({ index, start }) => {
          const item = items[index];
          return item === undefined ? null : <Fragment key={keyOf(item)}>{row(item, start)}</Fragment>;
        })}
      </Inner>
    </Scroll>
  );
}
