import { isPlural, singularOf } from '../contract/word-forms.js';
import { uniqueName } from './unique-name.js';

/** `mooring-lines` as a name in code: mooringLines. */
export function toCamel(words: string): string {
  const parts = words.split(/[^A-Za-z0-9]+/).filter((part) => part !== '');
  return parts.map((part, i) => (i === 0 ? lowerFirst(part) : upperFirst(part))).join('');
}

function upperFirst(word: string): string {
  return (word[0] ?? '').toUpperCase() + word.slice(1);
}

function lowerFirst(word: string): string {
  return /^[A-Z]+$/.test(word) ? word.toLowerCase() : (word[0] ?? '').toLowerCase() + word.slice(1);
}

/** Segments that say where an API begins, not what it is about. */
const PREFIX = /^(api|rest|v\d+(\.\d+)?)$/i;

const ITEM_VERBS: Readonly<Record<string, string>> = {
  GET: 'read',
  PUT: 'replace',
  PATCH: 'change',
  DELETE: 'remove',
  POST: 'post',
};
const PLACE_VERBS: Readonly<Record<string, string>> = {
  GET: 'read',
  PUT: 'replace',
  PATCH: 'change',
  DELETE: 'clear',
  POST: 'post',
};

/** A name for an operation from its method and path: readBooking, listBerthBookings, holdBooking, login. Joins those taken. */
export function nameOperation(method: string, parts: readonly (string | null)[], taken: Set<string>): string {
  return uniqueName(baseName(method, parts), taken, '');
}

function baseName(method: string, parts: readonly (string | null)[]): string {
  const words = parts.filter(
    (part, i) => part === null || !(PREFIX.test(part) && parts.slice(0, i).every((p) => p !== null && PREFIX.test(p))),
  );
  const last = words.at(-1);
  const verb = method.toLowerCase();
  const literals = words.filter((part): part is string => part !== null && part !== '');
  const owner = ownerOf(words);
  if (literals.length === 0) return toName(`${PLACE_VERBS[method] ?? verb} root`);
  if (last === null) return toName(`${ITEM_VERBS[method] ?? verb} ${owner} ${singularOf(literals.at(-1) ?? '')}`);
  const word = literals.at(-1) ?? '';
  if (words.at(-2) === null) {
    const item = singularOf(literals.at(-2) ?? '');
    if (method !== 'GET' && !isPlural(word)) return toName(`${method === 'DELETE' ? `un${word}` : word} ${item}`);
    return toName(`${collectionName(method, word, item)}`);
  }
  const before = literals.slice(0, -1).join(' ');
  return toName(collectionName(method, word, before));
}

/** The thing a nested item belongs to: `/berths/{}/bookings/{}` -> berth. */
function ownerOf(words: readonly (string | null)[]): string {
  const at = words.slice(0, -2).lastIndexOf(null);
  return at > 0 ? singularOf(words[at - 1] ?? '') : '';
}

function collectionName(method: string, word: string, before: string): string {
  if (method === 'GET') return `${isPlural(word) ? 'list' : 'read'} ${before} ${word}`;
  if (method === 'POST') return isPlural(word) ? `create ${before} ${singularOf(word)}` : `${before} ${word}`;
  return `${PLACE_VERBS[method] ?? method.toLowerCase()} ${before} ${word}`;
}

function toName(words: string): string {
  const name = toCamel(words);
  return /^[A-Za-z_]/.test(name) ? name : `on${name}`;
}
