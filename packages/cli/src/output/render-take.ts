import type { ExchangeSummary, TakeSummary } from '@upsetter/core/wire';
import { renderCount } from './render-count.js';
import { renderTable } from './render-table.js';
import { paint } from './terminal.js';

/** A take in a few lines: what it heard, from whom, what was masked. */
export function renderTake(take: TakeSummary): string {
  const heard = `${renderCount(take.exchanges, 'exchange')} with ${take.upstream ?? 'nobody'}`;
  const where = take.address === null ? take.state : `open at ${take.address}`;
  const lines = [`${paint.strong(take.name)}  ${heard}, ${where}`];
  if (take.masked.length > 0)
    lines.push(`masked: ${take.masked.map(({ place, count }) => `${place} (${count})`).join(', ')}`);
  if (take.trouble !== null) lines.push(paint.warn(take.trouble));
  return lines.join('\n');
}

export function renderExchanges(exchanges: readonly ExchangeSummary[]): string {
  const rows = exchanges.map((exchange) => [
    `#${exchange.index}`,
    exchange.at.slice(11, 23),
    exchange.method,
    exchange.status === 0 ? paint.bad('none') : String(exchange.status),
    `${exchange.firstByteMs.toFixed(1)} ms`,
    exchange.trouble === null ? exchange.url : `${exchange.url}  ${paint.warn(exchange.trouble)}`,
  ]);
  return renderTable(['', 'at', 'method', 'status', 'first byte', 'url'], rows);
}
