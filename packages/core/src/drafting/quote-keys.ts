import { isJsonMap } from '../definition/json-map.js';
import { escapeTemplate } from '../expression/template.js';
import type { SubjectRow } from './member.js';

/** Keys of a row that is asked for in vain, each with the expression that reads it from the call. */
export function namesIn(subject: SubjectRow | null, keys: readonly string[]): ReadonlyMap<string, string> {
  const texts = Object.values(subject?.where ?? {}).map((text) => text.slice(2, -1));
  return new Map(keys.flatMap((key, i) => (key === '' ? [] : [[key, texts[i] ?? ''] as const])));
}

/** A refusal with the keys that were asked for, wherever they stand as words of their own, read from the call. Its status is none. */
export function quoteKeys(json: unknown, names: ReadonlyMap<string, string>, status: number): unknown {
  if (Array.isArray(json)) return json.map((item) => quoteKeys(item, names, status));
  if (isJsonMap(json))
    return Object.fromEntries(Object.entries(json).map(([name, value]) => [name, quoteKeys(value, names, status)]));
  const own = names.get(String(json));
  if (typeof json === 'number') return own !== undefined && json !== status ? `\${number(${own})}` : json;
  return typeof json === 'string' ? quoteWords(json, names) : json;
}

const WORD = /[A-Za-z0-9]/;

function quoteWords(text: string, names: ReadonlyMap<string, string>): string {
  const keys = [...names.keys()].sort((a, b) => b.length - a.length);
  let quoted = '';
  let rest = 0;
  for (let at = 0; at < text.length; ) {
    const key = WORD.test(text[at - 1] ?? '') ? undefined : keys.find((own) => text.startsWith(own, at));
    if (key === undefined || WORD.test(text[at + key.length] ?? '')) {
      at++;
      continue;
    }
    quoted += `${escapeTemplate(text.slice(rest, at))}\${${names.get(key)}}`;
    at += key.length;
    rest = at;
  }
  return quoted + escapeTemplate(text.slice(rest));
}

/** What a refusal came to, with values that are one of the keys read from the call: nothing else can be meant by them. */
export function readKeys(template: unknown, names: ReadonlyMap<string, string>, status: number): unknown {
  if (Array.isArray(template)) return template.map((item) => readKeys(item, names, status));
  if (isJsonMap(template))
    return Object.fromEntries(Object.entries(template).map(([name, value]) => [name, readKeys(value, names, status)]));
  const own = names.get(String(template));
  if (own === undefined || template === status) return template;
  if (typeof template === 'number') return `\${number(${own})}`;
  return typeof template === 'string' ? `\${${own}}` : template;
}
