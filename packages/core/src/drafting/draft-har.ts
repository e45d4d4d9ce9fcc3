import { writeServiceFile } from '../definition/write-service-file.js';
import { AppError } from '../errors/app-error.js';
import { escapeTemplates } from '../expression/template.js';
import type { Exchange } from '../traffic/exchange.js';
import { readHar } from '../traffic/read-har.js';
import { chooseExchanges } from './choose-exchanges.js';
import type { Draft, DraftDecision } from './draft.js';
import { answerKey, buildHeardAnswer } from './heard-answer.js';
import { operationName } from './operation-name.js';
import { findTellingPlaces, keyAt, type PlaceValues, readPlaces } from './telling-places.js';
import { uniqueName } from './unique-name.js';

export interface DraftHarOptions {
  readonly service: string;
  /** The origin the service is drafted from; null: the one heard most. */
  readonly origin: string | null;
  readonly port: number | null;
}

interface DraftedOperation {
  readonly name: string;
  readonly on: string;
  readonly cases: Record<string, unknown>[];
  readonly decisions: DraftDecision[];
}

/** A service from a HAR file: one operation for each method and path, one case for each different answer. Fails with `file-unreadable`. */
export function draftHar(text: string, options: DraftHarOptions): Draft {
  const har = readHar(text);
  if (har.kind === 'refused') throw new AppError('file-unreadable', har.message);
  const unusable = har.unusable.map(({ index, reason }) => ({ at: `log.entries[${index}]`, reason }));
  const chosen = chooseExchanges(har.exchanges, options.origin);
  if (chosen.exchanges.length === 0) {
    const from = options.origin === null ? '' : ` from ${options.origin}`;
    throw new AppError('file-unreadable', `nothing in the file can be drafted${from}`, { unusable });
  }
  const taken = new Set<string>();
  const operations = [...groupByAddress(chosen.exchanges)].map(([on, exchanges]) =>
    draftOperation(on, exchanges, taken),
  );
  const definition = {
    upsetter: 1,
    service: options.service,
    ...(options.port === null ? {} : { listen: { port: options.port } }),
    operations: Object.fromEntries(operations.map(({ name, on, cases }) => [name, { on, cases }])),
  };
  const decisions = [...chosen.decisions, ...operations.flatMap((operation) => operation.decisions)];
  const comments = operations.map(({ name, decisions: [first] }) => ({
    path: ['operations', name],
    text: first === undefined ? '' : `${first.concluded} (${first.evidence})`,
  }));
  return {
    service: options.service,
    text: writeServiceFile(definition, [
      {
        path: [],
        text: `Drafted from ${chosen.exchanges.length === 1 ? '1 exchange' : `${chosen.exchanges.length} exchanges`} with ${chosen.origin}`,
      },
      ...comments,
    ]),
    operations: operations.length,
    cases: operations.reduce((sum, operation) => sum + operation.cases.length, 0),
    decisions,
    unusable,
  };
}

function groupByAddress(exchanges: readonly Exchange[]): Map<string, Exchange[]> {
  const groups = new Map<string, Exchange[]>();
  for (const exchange of exchanges) {
    const on = `${exchange.method} ${exchange.path}`;
    groups.set(on, [...(groups.get(on) ?? []), exchange]);
  }
  return groups;
}

function draftOperation(on: string, exchanges: readonly Exchange[], taken: Set<string>): DraftedOperation {
  const name = operationName(on, taken);
  const requests = exchanges.map(readPlaces);
  const keys = exchanges.map(answerKey);
  const telling = findTellingPlaces(requests, keys);
  const distinct = new Set(keys).size;
  const decisions: DraftDecision[] = [describeOperation(name, exchanges.length, distinct, telling.places)];
  const cases: Record<string, unknown>[] = [];
  const seen = new Set<string>();
  const names = new Set<string>();
  exchanges.forEach((exchange, i) => {
    const values = requests[i] as PlaceValues;
    const at = keyAt(values, telling.places);
    const identity = `${at} ${keys[i]}`;
    if (seen.has(identity)) return;
    const isUnreachable = [...seen].some((other) => other.startsWith(`${at} `));
    seen.add(identity);
    const caseName = nameCase(exchange, telling.places, values, names);
    if (isUnreachable)
      decisions.push({
        of: `${name} / ${caseName}`,
        concluded: 'not reached yet: an earlier case answers the same call',
        evidence: `entry ${exchange.index}: the call does not tell it apart`,
      });
    cases.push({ case: caseName, ...buildWhen(telling.places, values), answer: buildHeardAnswer(exchange) });
  });
  return { name, on, cases, decisions };
}

function describeOperation(name: string, heard: number, distinct: number, places: readonly string[]): DraftDecision {
  const calls = `heard ${heard === 1 ? 'once' : `${heard} times`}`;
  if (distinct === 1) return { of: name, concluded: 'always the same answer', evidence: calls };
  const told = places.length === 0 ? 'which the call does not tell apart' : `told apart by ${places.join(' and ')}`;
  return { of: name, concluded: `${distinct} different answers, ${told}`, evidence: calls };
}

function buildWhen(places: readonly string[], values: PlaceValues): { when?: Record<string, unknown> } {
  if (places.length === 0) return {};
  return {
    when: Object.fromEntries(
      places.map((place) => [place, values.has(place) ? escapeTemplates(values.get(place)) : { present: false }]),
    ),
  };
}

const LONGEST_NAME = 40;

/** A short name from what distinguishes the case: its values; else the status. Unique in its operation. */
function nameCase(exchange: Exchange, places: readonly string[], values: PlaceValues, taken: Set<string>): string {
  const words = places.flatMap((place) => (values.has(place) ? [String(values.get(place))] : []));
  const heard = exchange.status < 400 ? 'as heard' : `${exchange.status}`;
  const base = words.length > 0 ? words.join(' ').trim().slice(0, LONGEST_NAME) : heard;
  return uniqueName(base === '' ? 'empty' : base, taken);
}
