import type { JsonMap } from '../definition/json-map.js';
import { isSame } from './leaves.js';
import type { ListCall } from './list-filter.js';
import { type ListParameter, optionalMember, readListParameter } from './list-parameters.js';

/** How a list is cut into pages: which rows of the whole a call gets, and how that is written. */
export interface ListPage {
  readonly write: (list: string) => string;
  readonly told: string;
}

/** Null: no pages explain what was listed. `{ write: same }` when every call got the whole. */
export function findPage(calls: readonly ListCall[], arranged: readonly (readonly JsonMap[])[]): ListPage | null {
  const isWhole = calls.every((call, i) => isRun(call.listed, arranged[i] ?? [], 0, Number.POSITIVE_INFINITY));
  if (isWhole) return { write: (list) => list, told: '' };
  const names = new Set(calls.flatMap((call) => [...call.given.keys()]));
  const named = (kind: ListParameter) => [...names].find((name) => readListParameter(name) === kind) ?? null;
  const limit = named('length');
  const offset = named('offset');
  const page = named('page');
  const usual = usualLength(calls, arranged, limit);
  for (const firstPage of [1, 0]) {
    const cut = (call: ListCall): readonly [number, number] => {
      const length = numberOf(call, limit) ?? usual;
      const start = numberOf(call, offset) ?? ((numberOf(call, page) ?? firstPage) - firstPage) * length;
      return [start, length];
    };
    if (!calls.every((call, i) => isRun(call.listed, arranged[i] ?? [], ...cut(call)))) continue;
    const length = limit === null ? String(usual) : `number(call.query${optionalMember(limit)}.orValue(${usual}))`;
    const start =
      offset !== null
        ? `number(call.query${optionalMember(offset)}.orValue(0))`
        : page !== null
          ? `(number(call.query${optionalMember(page)}.orValue(${firstPage})) - ${firstPage}) * ${length}`
          : '0';
    return {
      write: (list) => `slice(${list}, ${start}, ${start} + ${length})`,
      told: `in pages of ${usual}`,
    };
  }
  return null;
}

function numberOf(call: ListCall, name: string | null): number | null {
  const text = name === null ? undefined : call.given.get(name);
  return text === undefined || !/^\d+$/.test(text) ? null : Number(text);
}

/** The length of a page when the call does not say: what was listed where more was there. */
function usualLength(
  calls: readonly ListCall[],
  arranged: readonly (readonly JsonMap[])[],
  limit: string | null,
): number {
  const lengths = calls.flatMap((call, i) =>
    numberOf(call, limit) === null && call.listed.length < (arranged[i]?.length ?? 0) ? [call.listed.length] : [],
  );
  return lengths.length > 0 ? Math.max(...lengths) : 1000;
}

function isRun(listed: readonly JsonMap[], arranged: readonly JsonMap[], start: number, length: number): boolean {
  const expected = arranged.slice(start, start + length);
  return expected.length === listed.length && listed.every((row, i) => isSame(row, expected[i]));
}
