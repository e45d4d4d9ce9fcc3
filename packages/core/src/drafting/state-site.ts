import { singularOf } from '../contract/word-forms.js';
import type { CauseFinder } from './cause.js';
import type { CaseClass } from './classes.js';
import type { Heard } from './heard.js';
import type { Member } from './member.js';
import { toCamel } from './operation-words.js';
import type { MixedCases } from './planned-case.js';
import type { HeardOperation } from './session.js';

/** One place where the same call was answered differently in the course of the session. */
export interface StateSite {
  readonly operation: HeardOperation;
  readonly members: readonly Member[];
  readonly planned: MixedCases;
}

/** The answers of one site for one key, in order: runs of one class, each with the write that began it. */
export interface Timeline {
  readonly key: string;
  readonly runs: readonly Run[];
}

export interface Run {
  readonly answer: CaseClass;
  readonly first: Heard;
  readonly last: Heard;
  readonly count: number;
  /** Null for the first run, and where nothing in between could have done it. */
  readonly cause: Heard | null;
}

export interface TracedSite {
  readonly site: StateSite;
  /** Index of the path's part that names the thing; null: the path names none. */
  readonly keyIndex: number | null;
  readonly timelines: readonly Timeline[];
  /** `keyed`: every cause names the thing. `plain`: causes, but of the whole. `alone`: something changed without a cause. */
  readonly mode: 'keyed' | 'plain' | 'alone';
}

/** Reconstructs which write changed what at a site. */
export function traceSite(site: StateSite, causes: CauseFinder): TracedSite {
  const { operation, members, planned } = site;
  const keyIndex = lastParameter(operation);
  const byKey = new Map<string, { heard: Heard; answer: CaseClass }[]>();
  for (const answer of planned.answers) {
    for (const index of answer.members) {
      const heard = members[index]?.heard;
      if (heard === undefined) continue;
      const key = keyIndex === null ? '' : (heard.segments[keyIndex] ?? '');
      byKey.set(key, [...(byKey.get(key) ?? []), { heard, answer }]);
    }
  }
  const word = operation.parts.find((part) => part !== null && part !== '') ?? '';
  const timelines = [...byKey].map(([key, items]) => ({
    key,
    runs: toRuns(items, keyIndex === null ? null : key, word, causes),
  }));
  return { site, keyIndex, timelines, mode: modeOf(timelines, keyIndex, causes) };
}

function lastParameter(operation: HeardOperation): number | null {
  const index = operation.parts.lastIndexOf(null);
  return index < 0 ? null : index;
}

function toRuns(
  items: readonly { heard: Heard; answer: CaseClass }[],
  key: string | null,
  word: string,
  causes: CauseFinder,
): Run[] {
  const sorted = [...items].sort((a, b) => a.heard.position - b.heard.position);
  const runs: { answer: CaseClass; first: Heard; last: Heard; count: number; cause: Heard | null }[] = [];
  for (const { heard, answer } of sorted) {
    const current = runs.at(-1);
    if (current?.answer === answer) {
      current.last = heard;
      current.count++;
      continue;
    }
    // A write that is answered differently the next time may itself have made the difference.
    const from = current === undefined ? 0 : current.last.isWrite ? current.last.position : current.last.position + 1;
    const cause = current === undefined ? null : causes.between(from, heard.position, key, word);
    runs.push({ answer, first: heard, last: heard, count: 1, cause });
  }
  return runs;
}

function modeOf(timelines: readonly Timeline[], keyIndex: number | null, causes: CauseFinder): TracedSite['mode'] {
  const changes = timelines.flatMap(({ key, runs }) => runs.slice(1).map((run) => ({ key, cause: run.cause })));
  if (changes.some(({ cause }) => cause === null)) return 'alone';
  if (keyIndex === null) return 'plain';
  return changes.every(({ key, cause }) => cause !== null && causes.mentions(cause, key)) ? 'keyed' : 'plain';
}

/** What the state of a site is called: the thing for keyed ones, the last word of the path for others. */
export function siteNoun({ site, keyIndex, mode }: TracedSite): string {
  const { parts, name } = site.operation;
  const word =
    mode !== 'plain' && keyIndex !== null
      ? singularOf(parts[keyIndex - 1] ?? '')
      : parts.filter((part) => part !== null).at(-1);
  const noun = toCamel(word ?? '');
  return /^[A-Za-z_]\w*$/.test(noun) ? noun : toCamel(name);
}
