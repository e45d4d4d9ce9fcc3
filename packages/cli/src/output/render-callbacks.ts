import type { SentCallback } from '@upsetter/core/wire';
import { paint } from './terminal.js';

/** The calls that one call led to: where to, whether they arrived, and each try. */
export function renderCallbacks(callbacks: readonly SentCallback[]): string {
  return ['called back', ...callbacks.flatMap(renderCallback)].join('\n');
}

function renderCallback({ method, to, state, tries }: SentCallback): string[] {
  const word = state === 'arrived' ? paint.good(state) : state === 'failed' ? paint.bad(state) : paint.warn(state);
  return [
    `  ${word}  ${method} ${to}`,
    ...tries.map(({ status, trouble, tookMs }, i) => {
      const what = trouble ?? `${status} in ${tookMs.toFixed(1)} ms`;
      return `           ${paint.faint(`try ${i + 1}`)}  ${what}`;
    }),
  ];
}
