import type { ExchangeSummary, TakeSummary } from '@upsetter/core/wire';
import { renderCount } from './render-count.js';
import { renderTable } from './render-table.js';
import { paint } from './terminal.js';

/** What to do once a take is open. */
export function renderStart({ name, upstream, address }: TakeSummary, hosts: readonly string[]): string {
  const stop = `then: upsetter take stop ${name}`;
  if (upstream !== null)
    return `${paint.strong(name)} hears ${upstream}\nPoint the application at ${paint.strong(address ?? '')}, ${stop}`;
  return [
    `${paint.strong(name)} hears ${hosts.length === 0 ? 'every host' : hosts.join(', ')} through a proxy`,
    `Set http_proxy and https_proxy of the application to ${paint.strong(address ?? '')}, ${stop}`,
    'For https it has to trust the certificate that this writes: upsetter authority export -o upsetter-authority.pem',
  ].join('\n');
}

/** Where a take is or was heard, in a few words. */
export function describeSource({ upstream, address }: TakeSummary): string {
  if (upstream === null) return address === null ? 'a proxy' : `the proxy at ${address}`;
  return address === null ? upstream : `${upstream} through ${address}`;
}

/** A take in a few lines: what it heard, from whom, what was masked. */
export function renderTake(take: TakeSummary): string {
  const whom = take.upstream === null ? 'through the proxy' : `with ${take.upstream}`;
  const heard = `${renderCount(take.exchanges, 'exchange')} ${whom}`;
  const where = take.address === null ? take.state : `open at ${take.address}`;
  const lines = [`${paint.strong(take.name)}  ${heard}, ${where}`];
  if (take.masked.length > 0)
    lines.push(`masked: ${take.masked.map(({ place, count }) => `${place} (${count})`).join(', ')}`);
  lines.push(...renderHosts(take.hosts));
  if (take.trouble !== null) lines.push(paint.warn(take.trouble));
  return lines.join('\n');
}

/** A line for each exchange; with its origin where there are several. */
export function renderExchanges(exchanges: readonly ExchangeSummary[]): string {
  const isMixed = new Set(exchanges.map(({ origin }) => origin)).size > 1;
  const rows = exchanges.map((exchange) => [
    `#${exchange.index}`,
    exchange.at.slice(11, 23),
    exchange.method,
    exchange.status === 0 ? paint.bad('none') : String(exchange.status),
    `${exchange.firstByteMs.toFixed(1)} ms`,
    (isMixed ? exchange.origin : '') +
      (exchange.trouble === null ? exchange.url : `${exchange.url}  ${paint.warn(exchange.trouble)}`),
  ]);
  return renderTable(['', 'at', 'method', 'status', 'first byte', 'url'], rows);
}

/** What a proxy did with each host: heard, passed on untouched, or not let in. */
function renderHosts(hosts: TakeSummary['hosts']): string[] {
  return hosts.flatMap(({ host, heard, untouched, refused, trouble }) => {
    const parts = [
      ...(heard > 0 ? [`${heard} heard`] : []),
      ...(untouched > 0 ? [`${untouched} passed untouched`] : []),
      ...(refused > 0 ? [paint.warn(`${refused} not let through: ${trouble}`)] : []),
    ];
    return [`  ${host}  ${parts.join(', ')}`];
  });
}
