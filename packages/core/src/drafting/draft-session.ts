import type { ServiceText } from '../definition/beside/service-text.js';
import { compileDefinition, loadService } from '../definition/load-service.js';
import type { FileProblem } from '../errors/app-error.js';
import type { CompiledService } from '../matching/compile-service.js';
import { CALLERS, type Callers } from './callers.js';
import type { CauseFinder } from './cause.js';
import type { ChosenExchanges } from './choose-exchanges.js';
import type { Draft, DraftLevel } from './draft.js';
import { measureFidelity } from './fidelity.js';
import { findOwners } from './find-owners.js';
import type { Heard } from './heard.js';
import { eachLeaf } from './leaves.js';
import { gatherMembers } from './members.js';
import type { Overrules } from './overrules.js';
import type { HeardPath } from './path-templates.js';
import { planOperation } from './plan-operation.js';
import { findKinds } from './records.js';
import { REPEATS } from './repeated-calls.js';
import { resolveState } from './resolve-state.js';
import { buildOperations, type HeardOperation } from './session.js';
import type { ValueFlow } from './value-flow.js';
import { writeDraft } from './write-draft.js';

/** A session, read and traced: what every attempt to draft it begins with. */
export interface TracedSession {
  readonly chosen: ChosenExchanges;
  readonly heard: readonly Heard[];
  readonly flow: ValueFlow;
  readonly paths: readonly HeardPath[];
  readonly causes: CauseFinder;
  /** Who calls; null where the session does not show it. */
  readonly callers: Callers | null;
  readonly options: { readonly service: string; readonly port: number | null; readonly level: DraftLevel };
}

/** One attempt, and what is wrong with it. */
export interface DraftAttempt {
  readonly draft: Draft;
  /** How many exchanges it answers as heard. */
  readonly asHeard: number;
  /** Operations that answer otherwise than heard, or whose cases cannot be. */
  readonly failing: ReadonlySet<string>;
  /** Operations whose answers first showed what the failing ones show again. */
  readonly sources: ReadonlySet<string>;
  /** The kinds of rows that each operation speaks of. */
  readonly kindsOf: ReadonlyMap<string, readonly string[]>;
  /** What keeps the file from loading. */
  readonly problems: readonly FileProblem[];
}

/** Drafts a session once, under what is overruled. */
export function draftSession(session: TracedSession, overrules: Overrules): DraftAttempt {
  const { chosen, heard, flow, paths, causes, callers, options } = session;
  const allKinds = findOwners(findKinds(paths), paths, heard).filter(({ name }) => !overrules.noRecords.has(name));
  const operations = buildOperations(paths, allKinds);
  const isGeneral = options.level !== 'as-heard';
  const gathered = gatherMembers(heard, operations, isGeneral ? allKinds : [], { flow, causes, callers });
  const planned = gathered.operations.map((operation) =>
    planOperation(operation, gathered.kinds, session, overrules.levels.get(operation.operation.name) ?? options.level),
  );
  const singles = gathered.kinds.flatMap(({ name, singlePath }) => (singlePath === null ? [] : [name]));
  const state = resolveState(planned, heard, [...singles, CALLERS, REPEATS]);
  const { kinds, starting } = gathered;
  const { definition, ...draft } = writeDraft(planned, state, {
    options,
    chosen,
    isGeneral,
    kinds,
    starting,
    callers,
  });
  const kindsOf = new Map(
    gathered.operations.map(({ operation, subject, members }) => [
      operation.name,
      [...new Set([...(subject === null ? [] : [subject.kind.name]), ...members.flatMap(sightedKinds)])],
    ]),
  );
  const read = proofRead(draft, definition);
  if (read.kind === 'refused') {
    const failing = new Set(read.problems.flatMap(({ path }) => /^operations\.([^.[]+)/.exec(path)?.[1] ?? []));
    return {
      draft: { ...draft, fidelity: null },
      asHeard: -1,
      failing,
      sources: new Set(),
      kindsOf,
      problems: read.problems,
    };
  }
  const fidelity = measureFidelity(read.service, chosen.exchanges);
  const failing = new Set(fidelity.differences.flatMap(({ operation }) => operation ?? []));
  const sources = findSources(session, operations, new Set(fidelity.differences.map(({ index }) => index)));
  return { draft: { ...draft, fidelity }, asHeard: fidelity.asHeard, failing, sources, kindsOf, problems: [] };
}

function findSources(
  { heard, flow }: TracedSession,
  operations: readonly HeardOperation[],
  failing: ReadonlySet<number>,
): ReadonlySet<string> {
  if (failing.size === 0) return new Set();
  const nameAt = new Map(operations.flatMap(({ name, heard: own }) => own.map(({ position }) => [position, name])));
  const found = new Set<string>();
  for (const { exchange, answerJson, position } of heard) {
    if (!failing.has(exchange.index)) continue;
    eachLeaf(answerJson, (value) => {
      const made = flow.madeAt(value);
      const name = made === null || made >= position ? undefined : nameAt.get(made);
      if (name !== undefined) found.add(name);
    });
  }
  return found;
}

function sightedKinds({ sightings }: { readonly sightings: readonly { readonly kind: { readonly name: string } }[] }) {
  return sightings.map(({ kind }) => kind.name);
}

/** Longer files take longer to read back than to draft; that they say what they were made from is a matter of the writer's tests. */
const MOST_READ_BACK = 2_000_000;

type ProofRead =
  | { readonly kind: 'read'; readonly service: CompiledService }
  | { readonly kind: 'refused'; readonly problems: readonly FileProblem[] };

/** The draft as mocks would run it: read back from its text, or from what the text was made of where that is very long. */
function proofRead({ text, files }: ServiceText, definition: unknown): ProofRead {
  if (text.length > MOST_READ_BACK) return { kind: 'read', service: compileDefinition(definition) };
  const loaded = loadService(text, files);
  return loaded.kind === 'loaded' ? { kind: 'read', service: loaded.service } : loaded;
}
