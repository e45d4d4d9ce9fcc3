import { filesOf, splitBodies, withReferences } from '../definition/beside/split-bodies.js';
import { writeServiceFile } from '../definition/write-service-file.js';
import { callerSteps, describeCallers, isAsked } from './caller-steps.js';
import { CALLERS, type Callers } from './callers.js';
import type { ChosenExchanges } from './choose-exchanges.js';
import type { Draft, DraftDecision, DraftLevel } from './draft.js';
import { markParts } from './draft-marks.js';
import { emitCases, type WrittenCase } from './emit-operation.js';
import { keepMoments } from './keep-moments.js';
import { draftLatencies } from './latencies.js';
import { sinceName } from './member.js';
import { addMissingRow, pickRow } from './missing-row.js';
import { keyFields } from './owner.js';
import { pathId } from './path-templates.js';
import type { PlannedOperation } from './plan-operation.js';
import type { RecordKind } from './record-kind.js';
import { emitRepeated, REPEATS } from './repeated-calls.js';
import type { ResolvedState } from './resolve-state.js';
import { addSettledRow } from './settled-row.js';

export interface WriteScope {
  readonly options: { readonly service: string; readonly port: number | null; readonly level: DraftLevel };
  readonly chosen: ChosenExchanges;
  readonly isGeneral: boolean;
  readonly kinds: readonly RecordKind[];
  readonly starting: ReadonlyMap<string, readonly Readonly<Record<string, unknown>>[]>;
  readonly callers: Callers | null;
}

export interface WrittenDraft extends Omit<Draft, 'fidelity'> {
  /** What the text was made of. */
  readonly definition: unknown;
}

/** The service file and what was concluded on the way. */
export function writeDraft(
  operations: readonly PlannedOperation[],
  state: ResolvedState,
  { options, chosen, isGeneral, kinds, starting, callers: known }: WriteScope,
): WrittenDraft {
  const decisions: DraftDecision[] = [...chosen.decisions];
  const ageing = findAgeing(operations);
  const callers = known !== null && isAsked(known, operations) ? known : null;
  if (callers !== null) decisions.push(describeCallers(callers));
  const written = writeOperations(operations, { state, ageing, isGeneral, callers }, decisions);
  const text = JSON.stringify(written);
  const datasets = kinds.filter(
    ({ name, singlePath }) =>
      singlePath === null && (text.includes(`data.${name}`) || new RegExp(`"(of|into)":"${name}"`).test(text)),
  );
  decisions.push(...datasets.map((kind) => describeRecords(kind, starting.get(kind.name)?.length ?? 0)));
  const singles = kinds.filter(({ name, singlePath }) => singlePath !== null && text.includes(`state.${name}`));
  const latencies = draftLatencies(operations.map(({ operation }) => operation));
  const variables = new Map<string, unknown>([
    ...state.variables,
    ...singles.map((kind) => [kind.name, starting.get(kind.name)?.[0] ?? null] as const),
    ...ageing.map((kind) => [sinceName(kind), {}] as const),
    ...(callers === null ? [] : [[CALLERS, {}] as const]),
    ...(operations.some(({ repeated }) => repeated !== null) ? [[REPEATS, {}] as const] : []),
  ]);
  const definition = {
    upsetter: 1,
    service: options.service,
    ...(options.port === null ? {} : { listen: { port: options.port } }),
    ...(chosen.origin === null ? {} : { upstream: chosen.origin }),
    ...(variables.size === 0 ? {} : { state: Object.fromEntries(variables) }),
    ...(datasets.length === 0
      ? {}
      : {
          datasets: Object.fromEntries(
            datasets.map((kind) => [kind.name, { key: fileKey(kind), rows: starting.get(kind.name) ?? [] }]),
          ),
        }),
    operations: written,
    ...(latencies.length === 0 ? {} : { upsets: latencies }),
  };
  const marked = { ...definition, drafted: markParts(definition) };
  const bodies = splitBodies(marked, options.service);
  const heard = chosen.exchanges.length;
  return {
    definition: marked,
    service: options.service,
    text: writeServiceFile(withReferences(marked, bodies), [
      { path: [], text: `Drafted from ${heard === 1 ? '1 exchange' : `${heard} exchanges`} with ${chosen.origin}` },
      {
        path: ['drafted'],
        text: 'what was drafted, by digest: a newer draft is merged around parts that were edited since',
      },
      ...operations.map(({ operation }) => ({
        path: ['operations', operation.name],
        text: commentOf(operation.name, decisions),
      })),
    ]),
    files: filesOf(bodies),
    operations: operations.length,
    cases: Object.values(written).reduce((sum, own) => sum + own.cases.length, 0),
    level: options.level,
    decisions,
    unusable: [],
  };
}

interface OperationsScope {
  readonly state: ResolvedState;
  readonly ageing: readonly RecordKind[];
  readonly isGeneral: boolean;
  readonly callers: Callers | null;
}

/** The operations as the file has them; what is concluded on the way joins the decisions. */
function writeOperations(
  operations: readonly PlannedOperation[],
  { state, ageing, isGeneral, callers }: OperationsScope,
  decisions: DraftDecision[],
): Record<string, { readonly on: string; readonly cases: readonly WrittenCase[] }> {
  const written: Record<string, { on: string; cases: readonly WrittenCase[] }> = {};
  for (const planned of operations) {
    const { operation } = planned;
    const paths = describePath(planned).filter(({ id }) => !decisions.some((decision) => decision.id === id));
    decisions.push(describeOperation(planned, isGeneral), ...paths, ...planned.notes);
    const own = emitCases(planned.planned, {
      operation,
      isGeneral,
      state,
      siteOf: state.siteOf,
      more: callers === null ? new Map() : callerSteps(planned, callers),
      note: (caseName, concluded, evidence) =>
        decisions.push({
          of: caseName === null ? operation.name : `${operation.name} / ${caseName}`,
          concluded,
          evidence,
        }),
      names: new Set(),
    });
    const kept = operation.method === 'GET' ? own : keepMoments(own, ageing);
    const complete = isGeneral ? addMissingRow(addSettledRow(kept, planned), planned, operations) : kept;
    const all = planned.repeated === null ? complete : emitRepeated(complete, planned.repeated);
    const row = pickRow(all, planned.subject);
    written[operation.name] = { on: operation.on, ...(row === null ? {} : { row }), cases: all };
  }
  return written;
}

/** The kinds whose rows change by themselves some time after they were written. */
function findAgeing(operations: readonly PlannedOperation[]): RecordKind[] {
  const found = operations.flatMap(({ subject, planned }) => {
    const isAsked = planned.some((item) => item.conditions.some(({ place }) => place.startsWith('age ')));
    return isAsked && subject !== null ? [subject.kind] : [];
  });
  return [...new Set(found)];
}

function commentOf(name: string, decisions: readonly DraftDecision[]): string {
  return decisions
    .filter(({ of }) => of === name)
    .map(({ concluded, evidence }) => `${concluded} (${evidence})`)
    .join('\n');
}

function describeOperation(
  { operation, members, classes, planned }: PlannedOperation,
  isGeneral: boolean,
): DraftDecision {
  const calls = `heard ${members.length === 1 ? 'once' : `${members.length} times`}`;
  const evidence = calls;
  const of = operation.name;
  const id = `operation:${of}`;
  const confidence = Math.min(0.95, 0.5 + members.length / 20);
  if (classes.length === 1)
    return {
      id,
      of,
      concluded: isGeneral ? 'one case makes every answer' : 'always the same answer',
      evidence,
      confidence,
    };
  const places = [...new Set(planned.flatMap((item) => item.conditions.map(({ place }) => place)))];
  const told = places.length === 0 ? 'which the call does not tell apart' : `told apart by ${places.join(' and ')}`;
  return { id, of, concluded: `${classes.length} different answers, ${told}`, evidence, confidence };
}

/** Each parameter of the path, to be overruled by the path up to it. */
function describePath({ operation }: PlannedOperation): DraftDecision[] {
  const places = operation.parts.flatMap((part, i) => (part === null ? [i] : []));
  return places.map((place, i) => {
    const evidence = operation.evidence[i] ?? '';
    return {
      id: `path:${pathId(operation.parts.slice(0, place + 1))}`,
      of: operation.name,
      concluded: `{${operation.paramNames[place]}} is a parameter`,
      evidence,
      confidence: /seen in answers|as you said|as the contract/.test(evidence) ? 0.95 : 0.7,
    };
  });
}

/** The key of a dataset as the file has it. */
function fileKey(kind: RecordKind): string | readonly string[] {
  const fields = keyFields(kind);
  return fields.length === 1 ? kind.key : fields;
}

function describeRecords(kind: RecordKind, starting: number): DraftDecision {
  const { name, keys } = kind;
  const rows = starting === 0 ? 'none before the session' : `${starting} before the session`;
  return {
    id: `records:${name}`,
    of: 'draft',
    concluded: `${name} are rows, told apart by ${keyFields(kind).join(' and ')}`,
    evidence: `${keys.size} seen, ${rows}`,
    confidence: 0.9,
  };
}
