import type { ServiceText } from '../definition/beside/service-text.js';
import { compileDefinition, requireService } from '../definition/load-service.js';
import { AppError } from '../errors/app-error.js';
import type { CompiledService } from '../matching/compile-service.js';
import type { Exchange } from '../traffic/exchange.js';
import { createCauseFinder } from './cause.js';
import { type ChooseOptions, chooseExchanges } from './choose-exchanges.js';
import { readContractPaths } from './contract-paths.js';
import type { Draft, DraftLevel } from './draft.js';
import { measureFidelity } from './fidelity.js';
import { readHeard } from './heard.js';
import { gatherMembers } from './members.js';
import { readOverrules } from './overrules.js';
import { findPaths } from './path-templates.js';
import { planOperation } from './plan-operation.js';
import { findKinds } from './records.js';
import { resolveState } from './resolve-state.js';
import { buildOperations } from './session.js';
import { traceValues } from './value-flow.js';
import { writeDraft } from './write-draft.js';

export interface DraftTrafficOptions extends ChooseOptions {
  readonly service: string;
  readonly port: number | null;
  readonly level: DraftLevel;
  /** An OpenAPI document that names paths, parameters and operations; what it does not have is named from what was heard. */
  readonly contract?: string | null;
  /**
   * Decisions the user overrules, by their ids: `path:/berths/{}` -> `literal`, `path:/berths/free` -> `value`,
   * `records:bookings` -> `no`, `operation:listBookings` -> a level.
   */
  readonly overrules?: ReadonlyMap<string, string>;
}

/** A service from the exchanges of a session, in their order. Fails with `file-unreadable` when none can be used. */
export function draftTraffic(exchanges: readonly Exchange[], options: DraftTrafficOptions): Draft {
  const inOrder = [...exchanges].sort((a, b) => a.index - b.index);
  const chosen = chooseExchanges(inOrder, options);
  if (chosen.exchanges.length === 0) {
    const from = options.origin === null ? '' : ` from ${options.origin}`;
    throw new AppError('file-unreadable', `nothing that was heard can be drafted${from}`);
  }
  const session = chosen.exchanges.map(readHeard);
  const flow = traceValues(session);
  const overrules = readOverrules(options.overrules ?? new Map());
  const paths = findPaths(
    session,
    overrules.paths,
    options.contract == null ? null : readContractPaths(options.contract),
  );
  const allKinds = findKinds(paths).filter(({ name }) => !overrules.noRecords.has(name));
  const operations = buildOperations(paths, allKinds);
  const isGeneral = options.level !== 'as-heard';
  const gathered = gatherMembers(session, operations, isGeneral ? allKinds : [], flow, createCauseFinder(session));
  const planned = gathered.operations.map((operation) =>
    planOperation(operation, gathered.kinds, flow, overrules.levels.get(operation.operation.name) ?? options.level),
  );
  const singles = gathered.kinds.flatMap(({ name, singlePath }) => (singlePath === null ? [] : [name]));
  const state = resolveState(planned, session, singles);
  const { definition, ...draft } = writeDraft(planned, state, {
    options,
    chosen,
    isGeneral,
    kinds: gathered.kinds,
    starting: gathered.starting,
  });
  return { ...draft, fidelity: measureFidelity(proofRead(draft, definition), chosen.exchanges) };
}

/** Longer files take longer to read back than to draft; that they say what they were made from is a matter of the writer's tests. */
const MOST_READ_BACK = 2_000_000;

/** The draft as mocks would run it: read back from its text, or from what the text was made of where that is very long. */
function proofRead({ text, files }: ServiceText, definition: unknown): CompiledService {
  return text.length <= MOST_READ_BACK ? requireService(text, files) : compileDefinition(definition);
}
