import { AppError } from '../errors/app-error.js';
import { matchLike } from '../matching/comparing/like.js';
import type { Exchange } from '../traffic/exchange.js';
import type { DraftDecision } from './draft.js';

const STATIC_TYPE =
  /^(text\/(html|css|javascript)|application\/(x-)?javascript|image\/|font\/|video\/|audio\/|application\/(font|wasm))/i;

export interface ChosenExchanges {
  readonly origin: string | null;
  readonly exchanges: readonly Exchange[];
  readonly decisions: readonly DraftDecision[];
}

export interface ChooseOptions {
  /** The origin to draft; null: the one heard most. */
  readonly origin: string | null;
  /** Exchanges to leave out; see `parseChoice`. */
  readonly without?: readonly string[];
  /** Only these. */
  readonly only?: readonly string[];
}

/** The exchanges that are part of one service: one origin, without preflights, a page's own files, and what the user leaves out. */
export function chooseExchanges(all: readonly Exchange[], options: ChooseOptions): ChosenExchanges {
  const decisions: DraftDecision[] = [];
  const leaveOut = (exchanges: readonly Exchange[], what: string): void => {
    if (exchanges.length === 0) return;
    const shown = exchanges.slice(0, 3).map((exchange) => `${exchange.method} ${exchange.origin}${exchange.path}`);
    decisions.push({
      of: 'draft',
      concluded: `left out ${exchanges.length} ${what}`,
      evidence: shown.join(', ') + (exchanges.length > 3 ? ', ...' : ''),
    });
  };
  const without = (options.without ?? []).map(parseChoice);
  const only = (options.only ?? []).map(parseChoice);
  const left = new Set<Exchange>();
  const take = (what: string, isOut: (exchange: Exchange) => boolean): void => {
    const out = all.filter((exchange) => !left.has(exchange) && isOut(exchange));
    for (const exchange of out) left.add(exchange);
    leaveOut(out, what);
  };
  take('as you said', (exchange) => without.some((fits) => fits(exchange)));
  if (only.length > 0) take('that are not among those you named', (exchange) => !only.some((fits) => fits(exchange)));
  take('that were cut off or are too large', (exchange) => exchange.trouble !== null && exchange.status >= 200);
  take('without an answer a case could give', ({ status }) => status < 200 || status > 599);
  take('preflights: the mock answers them itself', (exchange) => exchange.method === 'OPTIONS');
  const isNamed = (exchange: Exchange): boolean => only.some((fits) => fits(exchange));
  take(
    "of a page's own files (html, script, style, image, font)",
    (exchange) => STATIC_TYPE.test(exchange.contentType) && !isNamed(exchange),
  );
  const rest = all.filter((exchange) => !left.has(exchange));
  const origin = options.origin ?? mostHeard(rest);
  take(`of other origins than ${origin} (choose with --origin)`, (exchange) => exchange.origin !== origin);
  return { origin, exchanges: all.filter((exchange) => !left.has(exchange)), decisions };
}

/**
 * A choice of exchanges as a person writes it: `#12`, `status:404`, `status:5xx`, `type:image/*`, `host:127.0.0.1:4691`,
 * `/berths/*`, `DELETE /berths/*`. Fails with `wrong-use`.
 */
export function parseChoice(text: string): (exchange: Exchange) => boolean {
  const trimmed = text.trim();
  const index = /^#(\d+)$/.exec(trimmed);
  if (index !== null) return (exchange) => exchange.index === Number(index[1]);
  const status = /^status:([1-5])(\d\d|xx)$/i.exec(trimmed);
  if (status !== null)
    return ({ status: own }) =>
      status[2]?.toLowerCase() === 'xx'
        ? Math.floor(own / 100) === Number(status[1])
        : own === Number(`${status[1]}${status[2]}`);
  const named = /^(type|host):(\S+)$/.exec(trimmed);
  if (named !== null) {
    const pattern = named[2] ?? '';
    return named[1] === 'type'
      ? ({ contentType }) => matchLike((contentType.split(';')[0] ?? '').trim().toLowerCase(), pattern.toLowerCase())
      : ({ origin }) => matchLike(new URL(origin).host, pattern);
  }
  const path = /^(?:([A-Z]+) )?(\/\S*)$/.exec(trimmed);
  if (path === null)
    throw new AppError(
      'wrong-use',
      `${JSON.stringify(text)} chooses nothing: write a path such as /berths/*, DELETE /berths/*, status:5xx, type:image/*, host:NAME or #12`,
    );
  const [, method, pattern = ''] = path;
  return (exchange) => (method === undefined || exchange.method === method) && matchLike(exchange.path, pattern);
}

function mostHeard(exchanges: readonly Exchange[]): string | null {
  const counts = new Map<string, number>();
  for (const { origin } of exchanges) counts.set(origin, (counts.get(origin) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null;
}
