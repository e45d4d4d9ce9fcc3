import { bareType, isJsonType } from '../contract/keeping/media-type.js';
import { readSoapAnswer } from '../contract/wsdl/check-soap-answer.js';
import { isJsonMap } from '../definition/json-map.js';
import { headerOf } from '../traffic/exchange.js';
import type { TrialAnswer, TrialDifference } from './trial-result.js';
import type { TrialStep } from './trial-step.js';

/** A difference as it is found; whether it is accepted is asked later. */
export type FoundDifference = Omit<TrialDifference, 'accepted'>;

/** How a real answer differs from what the case answers, and from the contract. Empty: not at all. */
export function compareTrial(step: TrialStep, got: TrialAnswer): FoundDifference[] {
  if (step.kind === 'hostile') return step.address.soap === null ? compareRefusal(got) : compareFault(got);
  const byContract = (step.contract?.checkAnswer(got) ?? []).map((finding) => ({ ...finding }));
  if (step.wanted === null) return byContract;
  const byCase = [...compareWithCase(step.wanted, got), ...compareExact(step, step.wanted, got)];
  // Where the contract says it, too, it is said once, with the rule.
  return [...byCase.filter(({ at }) => !byContract.some((finding) => finding.at === at)), ...byContract];
}

function compareRefusal({ status }: TrialAnswer): FoundDifference[] {
  if (status >= 400 && status < 500) return [];
  const message = `${status}: a call that the contract does not allow is to be refused (4xx)`;
  return [{ at: 'status', message, rule: null }];
}

/** SOAP refuses by faults, whatever their status. */
function compareFault(got: TrialAnswer): FoundDifference[] {
  if (readSoapAnswer(got).kind === 'fault') return [];
  const message = `${got.status}: a call that the contract does not allow is to be refused by a fault`;
  return [{ at: 'body', message, rule: null }];
}

function compareWithCase(wanted: NonNullable<TrialStep['wanted']>, got: TrialAnswer): FoundDifference[] {
  if (wanted.status !== got.status)
    return [{ at: 'status', message: `${got.status}; the case answers ${wanted.status}`, rule: null }];
  const type = bareType(headerOf(wanted.headers, 'content-type') ?? '');
  const gotType = bareType(headerOf(got.headers, 'content-type') ?? '');
  if (type !== gotType && wanted.body !== null)
    return [
      { at: 'header content-type', message: `${gotType === '' ? 'none' : gotType}; the case has ${type}`, rule: null },
    ];
  const missing = wanted.headers
    .filter((name, i) => i % 2 === 0 && headerOf(got.headers, name.toLowerCase()) === null)
    .map((name) => ({ at: `header ${name.toLowerCase()}`, message: MISSING, rule: null }));
  if (!isJsonType(type) || wanted.body === null) return missing;
  const text = typeof wanted.body === 'string' ? wanted.body : new TextDecoder().decode(wanted.body);
  return [...missing, ...compareShape(tryJson(text), tryJson(got.body), 'json $')];
}

/** Values that the case marks as exact; where the status differs already, nothing else is comparable. */
function compareExact(
  { exact }: TrialStep,
  wanted: NonNullable<TrialStep['wanted']>,
  got: TrialAnswer,
): FoundDifference[] {
  if (exact.length === 0 || wanted.status !== got.status) return [];
  const text =
    wanted.body === null || typeof wanted.body === 'string' ? wanted.body : new TextDecoder().decode(wanted.body);
  const [own, real] = [tryJson(text), tryJson(got.body)];
  return exact.flatMap(({ text: at, read }) => {
    const [ours, theirs] = [read(wanted.headers, own), read(got.headers, real)];
    return ours === theirs
      ? []
      : [{ at, message: `is ${theirs ?? 'missing'}; the case has exactly ${ours ?? 'none'}`, rule: null }];
  });
}

const MISSING = 'is missing; the case has it';

/** Members that the case has and the real answer has not, and values of another type. */
function compareShape(wanted: unknown, got: unknown, at: string): FoundDifference[] {
  if (wanted === null || got === null) return [];
  if (typeOf(wanted) !== typeOf(got))
    return [{ at, message: `is ${describe(got)}; the case has ${describe(wanted)}`, rule: null }];
  if (Array.isArray(wanted) && Array.isArray(got)) return compareItems(wanted, got, at);
  if (!isJsonMap(wanted) || !isJsonMap(got)) return [];
  return Object.entries(wanted).flatMap(([name, value]) =>
    Object.hasOwn(got, name)
      ? compareShape(value, got[name], `${at}.${name}`)
      : [{ at: `${at}.${name}`, message: MISSING, rule: null }],
  );
}

/** What all items of the case's list have, each item of the real one has; where several lack the same, the first is told. */
function compareItems(wanted: readonly unknown[], got: readonly unknown[], at: string): FoundDifference[] {
  if (wanted.length === 0) return [];
  const common = commonItem(wanted);
  const told = new Set<string>();
  return got.flatMap((item, i) => {
    const start = `${at}[${i}]`;
    return compareShape(common, item, start).filter((own) => {
      const kind = `${own.at.slice(start.length)} ${own.message === MISSING}`;
      const isNew = !told.has(kind);
      told.add(kind);
      return isNew;
    });
  });
}

/** Of maps what is in all of them; null, which may be anything, where items are of several types. */
function commonItem(items: readonly unknown[]): unknown {
  const [first] = items;
  if (!items.every((item) => item !== null && typeOf(item) === typeOf(first))) return null;
  if (!isJsonMap(first)) return first;
  const maps = items.filter(isJsonMap);
  const names = Object.keys(first).filter((name) => maps.every((map) => Object.hasOwn(map, name)));
  return Object.fromEntries(names.map((name) => [name, commonItem(maps.map((map) => map[name]))]));
}

function typeOf(value: unknown): string {
  return Array.isArray(value) ? 'list' : typeof value;
}

function describe(value: unknown): string {
  const text = JSON.stringify(value);
  const LONGEST = 40;
  return text.length > LONGEST ? `${text.slice(0, LONGEST)}...` : text;
}

function tryJson(text: string | null): unknown {
  try {
    return text === null ? null : JSON.parse(text);
  } catch {
    return null;
  }
}
