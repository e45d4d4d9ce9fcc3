import { AppError } from '../errors/app-error.js';
import { refuseFile } from '../errors/refuse-file.js';
import type { Exchange } from '../traffic/exchange.js';
import { findCallers } from './callers.js';
import { createCauseFinder } from './cause.js';
import { type ChooseOptions, chooseExchanges } from './choose-exchanges.js';
import { readContractPaths } from './contract-paths.js';
import type { Draft, DraftDecision, DraftLevel } from './draft.js';
import { type DraftAttempt, draftSession, type TracedSession } from './draft-session.js';
import { readHeard } from './heard.js';
import { type Overrules, readOverrules } from './overrules.js';
import { findPaths } from './path-templates.js';
import { traceValues } from './value-flow.js';

export interface DraftTrafficOptions extends ChooseOptions {
  readonly service: string;
  readonly port: number | null;
  readonly level: DraftLevel;
  /** An OpenAPI document that names paths, parameters and operations; what it does not have is named from what was heard. */
  readonly contract?: string | null;
  /**
   * Decisions the user overrules, by their ids: `path:/berths/{}` -> `literal`, `path:/berths/free` -> `value`,
   * `records:bookings` -> `no`, `callers` -> `no`, `operation:listBookings` -> a level.
   */
  readonly overrules?: ReadonlyMap<string, string>;
}

/**
 * A service from the exchanges of a session, in their order. What was concluded and turns out not to hold for the session
 * itself is taken back. Fails with `file-unreadable` when no exchange can be used.
 */
export function draftTraffic(exchanges: readonly Exchange[], options: DraftTrafficOptions): Draft {
  const inOrder = [...exchanges].sort((a, b) => a.index - b.index);
  const chosen = chooseExchanges(inOrder, options);
  if (chosen.exchanges.length === 0) {
    const from = options.origin === null ? '' : ` from ${options.origin}`;
    throw new AppError('file-unreadable', `nothing that was heard can be drafted${from}`);
  }
  const read = chosen.exchanges.map(readHeard);
  const overrules = readOverrules(options.overrules ?? new Map());
  const callers = overrules.noCallers ? null : findCallers(read);
  const heard = callers === null ? read : read.map((item) => ({ ...item, caller: callers.callerOf(item) }));
  const contract = options.contract == null ? null : readContractPaths(options.contract);
  const session: TracedSession = {
    chosen,
    heard,
    flow: traceValues(heard),
    paths: findPaths(heard, overrules.paths, contract),
    causes: createCauseFinder(heard),
    callers,
    options,
  };
  const { draft, problems } = takeBack(session, overrules, draftSession(session, overrules));
  if (problems.length > 0) throw refuseFile('what was drafted', problems);
  return draft;
}

/**
 * An attempt that answers its own session otherwise than heard is made again: first without
 * the rows, then without what else was concluded of the operations that fail, then of those that made what they show.
 */
function takeBack(session: TracedSession, overrules: Overrules, first: DraftAttempt): DraftAttempt {
  let best = first;
  let current = overrules;
  const told: DraftDecision[] = [];
  for (const retry of session.options.level === 'as-heard' ? [] : [withoutRows, withoutConclusions, withoutSources]) {
    if (best.failing.size === 0) break;
    const { overrules: next, decisions } = retry(current, best);
    const attempt = draftSession(session, next);
    if (attempt.asHeard <= best.asHeard) continue;
    best = attempt;
    current = next;
    told.push(...decisions);
  }
  return told.length === 0
    ? best
    : { ...best, draft: { ...best.draft, decisions: [...best.draft.decisions, ...told] } };
}

interface Retry {
  readonly overrules: Overrules;
  readonly decisions: readonly DraftDecision[];
}

function withoutRows(overrules: Overrules, { failing, kindsOf }: DraftAttempt): Retry {
  const kinds = new Set([...failing].flatMap((name) => kindsOf.get(name) ?? []));
  return {
    overrules: { ...overrules, noRecords: new Set([...overrules.noRecords, ...kinds]) },
    decisions: [...kinds].map((kind) => ({
      of: 'draft',
      concluded: `${kind} are answered as heard, not kept as rows`,
      evidence: `as rows, ${[...failing].join(', ')} would answer otherwise than heard`,
    })),
  };
}

function withoutConclusions(overrules: Overrules, { failing }: DraftAttempt): Retry {
  return asHeard(overrules, failing);
}

/** Also what the failing ones show again is given as it was heard. */
function withoutSources(overrules: Overrules, { failing, sources }: DraftAttempt): Retry {
  return asHeard(overrules, new Set([...failing, ...sources]));
}

function asHeard(overrules: Overrules, names: ReadonlySet<string>): Retry {
  const levels = new Map([...overrules.levels, ...[...names].map((name) => [name, 'as-heard' as const] as const)]);
  return {
    overrules: { ...overrules, levels },
    decisions: [...names].map((name) => ({
      of: name,
      concluded: 'answers as heard',
      evidence: 'nothing that was concluded holds for each of its calls',
    })),
  };
}
