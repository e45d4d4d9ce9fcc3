import { bareType, isJsonType } from '../contract/keeping/media-type.js';
import { escapeTemplates } from '../expression/template.js';
import { headerOf } from '../traffic/exchange.js';
import type { TrialAnswer } from './trial-result.js';

const PROBLEM = 'application/problem+json';
/** The content types that the forms of an answer have by themselves. */
const USUAL = ['application/json', PROBLEM, 'text/plain', 'application/xml'];
/** Headers that belong to what is answered; all others belong to how. */
const KEPT = ['location', 'retry-after', 'www-authenticate', 'allow', 'cache-control'];

/** A real answer, written down as one of a service file. */
export function answerAsHeard({ status, headers, body }: TrialAnswer): Record<string, unknown> {
  const type = headerOf(headers, 'content-type');
  const bare = bareType(type ?? '');
  const kept: [string, string][] = KEPT.flatMap((name) => {
    const value = headerOf(headers, name);
    return value === null ? [] : [[name, value]];
  });
  if (type !== null && body !== null && !USUAL.includes(bare)) kept.unshift(['content-type', type]);
  return escapeTemplates({
    status,
    ...(kept.length === 0 ? {} : { headers: Object.fromEntries(kept) }),
    ...bodyOf(bare, body),
  }) as Record<string, unknown>;
}

function bodyOf(type: string, body: string | null): Record<string, unknown> {
  if (body === null || body === '') return { none: true };
  if (!isJsonType(type)) return /\bxml\b/.test(type) ? { xml: body } : { text: body };
  try {
    const json = JSON.parse(body) as unknown;
    const isProblem = type === PROBLEM && json !== null && typeof json === 'object' && !Array.isArray(json);
    return isProblem ? { problem: json } : { json };
  } catch {
    return { text: body };
  }
}
