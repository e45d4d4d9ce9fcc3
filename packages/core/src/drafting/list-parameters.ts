import { memberExpression } from './leaves.js';

/** What a parameter of a list asks for; null: rows of some kind, or nothing that is known. */
export type ListParameter = 'length' | 'offset' | 'page' | 'order';

const WORDS: Readonly<Record<ListParameter, RegExp>> = {
  length: /^(limit|size|per_?page|page_?size|page_?limit|count|top|take|max|first)$/,
  offset: /^(offset|page_?offset|skip|start|from)$/,
  page: /^(page|page_?number|page_?no|p)$/,
  order: /^(sort|sort_?by|order|order_?by)$/,
};

/** By its name: `limit`, `pageSize`, `page[size]`, `$top`. */
export function readListParameter(name: string): ListParameter | null {
  const word = name
    .replaceAll(/[[\].]+/g, '_')
    .replaceAll(/^[_$]+|_+$/g, '')
    .toLowerCase();
  const found = Object.entries(WORDS).find(([, pattern]) => pattern.test(word));
  return found === undefined ? null : (found[0] as ListParameter);
}

/** Whether a member of an answer shows what a parameter asked for, or what it was without being asked. */
export function isSameParameter(name: string, member: string): boolean {
  const kind = readListParameter(name);
  return normalize(name) === normalize(member) || (kind !== null && kind === readListParameter(member));
}

export function normalize(name: string): string {
  return name.replaceAll(/[^A-Za-z0-9]/g, '').toLowerCase();
}

/** A parameter that may be left out, as an expression reads it: `.?limit`, `[?'page[size]']`. */
export function optionalMember(name: string): string {
  return memberExpression([name]).replace(/^\./, '.?').replace(/^\[/, '[?');
}
