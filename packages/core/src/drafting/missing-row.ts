import type { WrittenCase } from './emit-operation.js';
import type { SubjectRow } from './member.js';
import type { GatheredOperation } from './members.js';
import { namesIn, quoteKeys } from './quote-keys.js';

/** `row:` of an operation whose cases speak of a row. */
export function pickRow(cases: readonly WrittenCase[], subject: SubjectRow | null): unknown {
  if (subject === null || subject.kind.singlePath !== null || !cases.some(speaksOfRow)) return null;
  return { of: subject.kind.name, where: subject.where };
}

function speaksOfRow(item: WrittenCase): boolean {
  const places = Object.keys((item['when'] ?? {}) as object);
  if (places.some((place) => place === 'row' || place.startsWith('row '))) return true;
  return /\$\{[^"]*\brow\b/.test(JSON.stringify([item['let'], item['answer'], item['then']]));
}

const NO_ROW = { row: { present: false } };

interface Planned extends GatheredOperation {
  readonly planned: readonly { readonly kind: string }[];
}

/**
 * The case for a thing that is not there, where the operation speaks of rows but none was asked for in vain: the refusal
 * heard at another operation of the same things, else a plain 404.
 */
export function addMissingRow(
  cases: readonly WrittenCase[],
  operation: GatheredOperation,
  all: readonly Planned[],
): readonly WrittenCase[] {
  const { subject } = operation;
  if (subject?.isPath !== true || subject.kind.singlePath !== null || !cases.some(speaksOfRow)) return cases;
  const isCovered = cases.some((item) => {
    const row = ((item['when'] ?? {}) as Record<string, unknown>)['row'];
    return JSON.stringify(row) === JSON.stringify(NO_ROW.row);
  });
  // What makes the row is not refused for want of one.
  if (isCovered || JSON.stringify(cases).includes(`"insert":{"into":"${subject.kind.name}"`)) return cases;
  const heard = findRefusal(operation, all);
  const answer = heard ?? { status: 404, problem: { title: `No such ${subject.kind.noun}` } };
  return [{ case: uniqueCase(`no such ${subject.kind.noun}`, cases), when: NO_ROW, answer }, ...cases];
}

function uniqueCase(name: string, cases: readonly WrittenCase[]): string {
  return cases.some((item) => item['case'] === name) ? `${name} any more` : name;
}

const STATUS = 404;

/** A 404 heard where a row of the same kind was missing. */
function findRefusal({ subject }: GatheredOperation, all: readonly Planned[]): unknown {
  for (const other of all) {
    if (other.subject?.kind !== subject?.kind || other.subject?.isPath !== true) continue;
    const missing = other.members.find((member) => member.row === null && member.heard.exchange.status === STATUS);
    const json = missing?.heard.answerJson;
    if (missing === undefined || json === undefined) continue;
    const names = namesIn(subject, other.subject.keysOf(missing.heard));
    const type = missing.heard.exchange.contentType;
    const headers = /^application\/json\b/.test(type) ? {} : { headers: { 'content-type': type } };
    return { status: STATUS, ...headers, json: quoteKeys(json, names, STATUS) };
  }
  return null;
}
