import type { Exchange } from '../traffic/exchange.js';
import type { DraftDecision } from './draft.js';

const STATIC_TYPE =
  /^(text\/(html|css|javascript)|application\/(x-)?javascript|image\/|font\/|video\/|audio\/|application\/(font|wasm))/i;

export interface ChosenExchanges {
  readonly origin: string | null;
  readonly exchanges: readonly Exchange[];
  readonly decisions: readonly DraftDecision[];
}

/** The exchanges that are part of one service: one origin, without preflights and a page's own files. */
export function chooseExchanges(all: readonly Exchange[], wantedOrigin: string | null): ChosenExchanges {
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
  const preflights = all.filter((exchange) => exchange.method === 'OPTIONS');
  const files = all.filter((exchange) => exchange.method !== 'OPTIONS' && STATIC_TYPE.test(exchange.contentType));
  leaveOut(preflights, 'preflights: the mock answers them itself');
  leaveOut(files, "of a page's own files (html, script, style, image, font)");
  const rest = all.filter((exchange) => !preflights.includes(exchange) && !files.includes(exchange));
  const origin = wantedOrigin ?? mostHeard(rest);
  const others = rest.filter((exchange) => exchange.origin !== origin);
  leaveOut(others, `exchanges with other origins than ${origin} (choose with --origin)`);
  return { origin, exchanges: rest.filter((exchange) => exchange.origin === origin), decisions };
}

function mostHeard(exchanges: readonly Exchange[]): string | null {
  const counts = new Map<string, number>();
  for (const { origin } of exchanges) counts.set(origin, (counts.get(origin) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null;
}
