import { headerOf } from '../traffic/exchange.js';
import type { WrittenCase } from './emit-operation.js';
import type { Member } from './member.js';

/** The state that keeps the answers to calls that may be sent again. */
export const REPEATS = 'repeats';

/** Headers by which a caller says that a call is the same one again. */
const REPEATABLE = ['idempotency-key', 'x-idempotency-key', 'x-request-key'];

/** Calls that were sent again under the key of an earlier one, and got its answer again. */
export interface RepeatedCalls {
  readonly header: string;
  readonly first: readonly Member[];
}

/** Splits the calls of one operation: those that were sent again are answered again, whatever else tells answers apart. */
export function splitRepeated(members: readonly Member[]): RepeatedCalls | null {
  for (const header of REPEATABLE) {
    const seen = new Map<string, Member>();
    const first = members.filter((member) => {
      const key = headerOf(member.heard.exchange.requestHeaders, header);
      if (key === null || !member.heard.isWrite || !member.heard.isSuccess) return true;
      const before = seen.get(key);
      if (before === undefined) seen.set(key, member);
      return before === undefined || !isSameAnswer(before, member);
    });
    if (first.length < members.length) return { header, first };
  }
  return null;
}

function isSameAnswer({ heard: { exchange: a } }: Member, { heard: { exchange: b } }: Member): boolean {
  return (
    a.path === b.path && a.status === b.status && a.body?.content !== undefined && a.body.content === b.body?.content
  );
}

/** The cases of an operation that may be sent again: what was answered is kept under the key, and given once more. */
export function emitRepeated(cases: readonly WrittenCase[], { header }: RepeatedCalls): WrittenCase[] {
  const key = `${REPEATS}[\${call.headers['${header}']}]`;
  const read = `state.${REPEATS}[call.headers['${header}']]`;
  const keep = { set: { [key]: { status: '${answer.status}', json: '${answer.json}' } } };
  const again: WrittenCase = {
    case: 'sent again',
    when: { [`header ${header}`]: { present: true }, [`state ${key}`]: { present: true } },
    answer: { status: `\${${read}.status}`, json: `\${${read}.json}` },
  };
  const kept = cases.map((item) => {
    const { status } = (item['answer'] ?? {}) as { readonly status?: number };
    if (typeof status === 'number' && status >= 400) return item;
    // biome-ignore lint/suspicious/noThenProperty: the word of the service file; a case is never awaited
    return { ...item, then: [...((item['then'] ?? []) as readonly unknown[]), keep] };
  });
  return [again, ...kept];
}
