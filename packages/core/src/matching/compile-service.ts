import { type CompiledAccess, compileAccess } from '../access/compile-access.js';
import { findSecretPlaces } from '../access/secret-places.js';
import type { TextScope } from '../answer/compile-text.js';
import { createTextScope } from '../answer/compile-text.js';
import { openBesideContract, readInSteps } from '../contract/beside-contract.js';
import { ContractKeeper } from '../contract/keeping/contract-keeper.js';
import { type CorsRules, compileCors } from '../cors/compile-cors.js';
import type { BesideFiles } from '../definition/beside/service-text.js';
import { type ContractKey, contractFileOf } from '../definition/contract-key.js';
import type { Lexicon } from '../definition/lexicon.js';
import type { CaseDefinition, OperationDefinition, ServiceFile } from '../definition/service-file.js';
import type { PathKey, Spot } from '../definition/yaml-source.js';
import { AppError } from '../errors/app-error.js';
import { type NamesInScope, ONLY_THE_CALL } from '../expression/compile-context.js';
import { readConstants } from '../json/exact-json.js';
import { compileResource } from '../resource/compile-resource.js';
import { buildStartingData } from '../state/build-starting-data.js';
import { compileLaneName, type NameLane } from '../state/compile-lane-name.js';
import { type CompiledRowPick, compileRowPick } from '../state/compile-row-pick.js';
import { type RowKey, toRowKey } from '../state/row-key.js';
import type { StartingData } from '../state/starting-data.js';
import { compileTokens, USUAL_ALGORITHM } from '../tokens/compile-tokens.js';
import type { SecretPlaces } from '../traffic/mask.js';
import { type CompiledUpset, compileUpset } from '../upset/compile-upset.js';
import type { Namespaces } from '../xml/compile-xpath.js';
import { type AddedCase, addOperations } from './add-operations.js';
import { buildCaseIndex, type CaseIndex } from './case-index.js';
import { type CompiledCase, compileCase, type ReportAt } from './compile-case.js';
import { type CompiledCondition, compileWhen } from './compile-condition.js';
import { addressShape, describeOn, dropEndSlash, type OperationAddress, parseOn } from './path-template.js';
import { SegmentTrie } from './segment-trie.js';

export interface CompiledOperation {
  readonly name: string;
  readonly on: string;
  readonly address: OperationAddress;
  /** What tells its calls from those of others with the same method and path; null: the address alone does. */
  readonly told: readonly CompiledCondition[] | null;
  readonly cases: readonly CompiledCase[];
  readonly index: CaseIndex | null;
  readonly row: CompiledRowPick | null;
  /** Whether a condition looks at state, rows or expressions, so that the frame is made before a case is chosen. */
  readonly needsFrame: boolean;
  /** Who may call it; null: everybody. */
  readonly access: CompiledAccess | null;
  /** Whether what is sent and answered holds secrets that are not kept. */
  readonly givesTokens: boolean;
}

/** A service as closures and tries. Immutable: an edit compiles a new one, and a call keeps the one it began with. */
export interface CompiledService {
  readonly name: string;
  readonly definition: ServiceFile;
  readonly operations: readonly CompiledOperation[];
  /** Operations by method and path; several share one where the body tells them apart. */
  readonly trie: SegmentTrie<readonly CompiledOperation[]>;
  /** Whether a slash at the end of a path does not count. */
  readonly isLoose: boolean;
  readonly start: StartingData;
  readonly upsets: readonly CompiledUpset[];
  /** Which pages may call and read; null: none. */
  readonly cors: CorsRules | null;
  /** The service's own way to name the lane of a call that names none; null: it is `main`. */
  readonly nameLane: NameLane | null;
  /** Where calls carry the keys that let them in: never shown. */
  readonly secrets: SecretPlaces;
  /** What calls and relayed answers are held against; null: no contract is named. */
  readonly contract: ContractKeeper | null;
}

/** What a definition does not say rightly, each with its spot in the file. */
export interface CompileProblem {
  readonly message: string;
  readonly spot: Spot;
}

export type CompileResult =
  | { readonly kind: 'compiled'; readonly service: CompiledService }
  | { readonly kind: 'refused'; readonly problems: readonly CompileProblem[] };

/** The one compile step: names checked, templates to tries, conditions and expressions to closures, constant answers to bytes. */
export function compileService(definition: ServiceFile, files: BesideFiles = {}): CompileResult {
  const steps = compileInSteps(definition, files);
  let step = steps.next();
  while (step.done !== true) step = steps.next();
  return step.value;
}

/** The same in small steps, between which other work can be done: large services take a while. */
export function* compileInSteps(
  definition: ServiceFile,
  files: BesideFiles,
): Generator<undefined, CompileResult, undefined> {
  const problems: CompileProblem[] = [];
  const report: ReportAt = (message, path, more = {}) => problems.push({ message, spot: { path, ...more } });
  const reportText: TextScope['report'] = (message, at, offset) =>
    report(message, at, offset === undefined ? {} : { offset });
  const shared = shareScope(definition, report, reportText);
  const start = yield* buildStartingData(definition, shared, reportText);
  const written: CompiledOperation[] = [];
  for (const [name, operation] of Object.entries(definition.operations)) {
    const compiled = compileOperation(name, operation, shared);
    if (compiled !== null) written.push(compiled);
    yield;
  }
  reportTwins(written, report);
  const operations = addOperations(written, addedCases(definition, shared, start, reportText), {
    report,
    makeOperation: ({ name, on, givesTokens }, address) => ({
      ...makeOperation(name, on, address, givesTokens ? null : shared.access),
      givesTokens,
    }),
    readAddress: (address) => (shared.isLoose ? dropEndSlash(address) : address),
  });
  const upsets = compileUpsets(
    definition,
    operations.map(({ name }) => name),
    report,
  );
  const nameLane = compileLaneName(definition.lane, definition.service, shared.vars, reportText);
  const contractFile = contractFileOf(definition.contract);
  if (contractFile !== null) yield* readInSteps(contractFile, files);
  const contract =
    definition.contract === undefined ? null : compileContract(definition.contract, files, operations, report);
  yield;
  if (problems.length > 0) return { kind: 'refused', problems };
  return {
    kind: 'compiled',
    service: {
      name: definition.service,
      definition,
      operations,
      trie: buildTrie(operations),
      isLoose: shared.isLoose,
      start,
      upsets,
      cors: compileCors(definition.cors),
      nameLane,
      secrets: shared.secrets,
      contract,
    },
  };
}

function shareScope(definition: ServiceFile, report: ReportAt, reportText: TextScope['report']): SharedScope {
  const variables = Object.entries(definition.variables ?? {});
  const vars = new Map(variables.map(([name, value]) => [name, readConstants(value)] as const));
  const algorithm = definition.tokens?.algorithm ?? USUAL_ALGORITHM;
  return {
    state: Object.keys(definition.state ?? {}),
    namespaces: definition.namespaces ?? {},
    lexicon: definition.lexicon ?? null,
    vars,
    access: compileAccess(definition.access, ['access'], { vars, report: reportText, algorithm }),
    algorithm,
    isLoose: definition.slashes === 'loose',
    secrets: findSecretPlaces(definition),
    datasetKeys: new Map(Object.entries(definition.datasets ?? {}).map(([name, { key }]) => [name, toRowKey(key)])),
    report,
  };
}

function buildTrie(operations: readonly CompiledOperation[]): SegmentTrie<readonly CompiledOperation[]> {
  const groups = new Map<string, CompiledOperation[]>();
  for (const operation of operations) {
    const shape = addressShape({ ...operation.address, soap: null });
    groups.set(shape, [...(groups.get(shape) ?? []), operation]);
  }
  const trie = new SegmentTrie<readonly CompiledOperation[]>();
  for (const group of groups.values()) if (group[0] !== undefined) trie.add(group[0].address, group);
  return trie;
}

/** What all operations share: the names of state and datasets, and where mistakes go. */
interface SharedScope {
  readonly state: readonly string[];
  readonly namespaces: Namespaces;
  readonly lexicon: Lexicon | null;
  readonly vars: ReadonlyMap<string, unknown>;
  readonly access: CompiledAccess | null;
  readonly algorithm: string;
  readonly isLoose: boolean;
  readonly secrets: SecretPlaces;
  readonly datasetKeys: ReadonlyMap<string, RowKey>;
  readonly report: ReportAt;
}

/** Cases of resources and of the token endpoint. */
function addedCases(
  { resources, tokens }: ServiceFile,
  shared: SharedScope,
  { datasets }: StartingData,
  report: TextScope['report'],
): readonly AddedCase[] {
  const scope = { names: namesFor(shared, null), datasets, report, secrets: shared.secrets.queries };
  const served = Object.entries(resources ?? {}).flatMap(([name, own]) =>
    compileResource(name, own, ['resources', name], scope),
  );
  return tokens === undefined ? served : [...served, ...compileTokens(tokens, ['tokens'], shared.vars, report)];
}

/** `on: { call: POST /rpc, when: {...} }`: by the call alone, since the operation has to be known before all else. */
function compileTold(
  on: OperationDefinition['on'],
  path: readonly PathKey[],
  names: readonly string[],
  { namespaces, report }: SharedScope,
): readonly CompiledCondition[] | null {
  if (typeof on === 'string' || !('call' in on)) return null;
  return compileWhen(on.when, { path: names, text: null, namespaces }, [...path, 'on', 'when'], (message, at, atKey) =>
    report(message, at, { atKey }),
  );
}

/** What expressions may use in every operation. */
function namesFor(shared: SharedScope, path: NamesInScope['path']): NamesInScope {
  const { state, datasetKeys, namespaces, lexicon, vars } = shared;
  return { ...ONLY_THE_CALL, path, state, datasets: [...datasetKeys.keys()], namespaces, lexicon, vars };
}

/** An operation that has no cases yet. */
function makeOperation(
  name: string,
  on: string,
  address: OperationAddress,
  access: CompiledAccess | null,
): CompiledOperation {
  return {
    name,
    on,
    address,
    told: null,
    cases: [],
    index: null,
    row: null,
    needsFrame: false,
    access,
    givesTokens: false,
  };
}

function compileOperation(
  name: string,
  definition: OperationDefinition,
  shared: SharedScope,
): CompiledOperation | null {
  const path = ['operations', name];
  const { report, datasetKeys } = shared;
  const parsed = parseOn(definition.on);
  if (parsed.kind === 'refused') {
    report(parsed.message, [...path, 'on']);
    return null;
  }
  reportRepeatedNames(definition.cases, [...path, 'cases'], report);
  const names = { ...namesFor(shared, parsed.address.names), row: definition.row !== undefined };
  const reportText: TextScope['report'] = (message, at, offset) =>
    report(message, at, offset === undefined ? {} : { offset });
  const row =
    definition.row === undefined
      ? null
      : compileRowPick(definition.row, [...path, 'row'], createTextScope(reportText, { ...names, row: false }));
  const cases = definition.cases.map((item, i) =>
    compileCase(item, [...path, 'cases', i], { names, datasetKeys, report }),
  );
  return {
    name,
    on: describeOn(definition.on),
    told: compileTold(definition.on, path, parsed.address.names, shared),
    address: shared.isLoose ? dropEndSlash(parsed.address) : parsed.address,
    cases,
    index: buildCaseIndex(cases.map((item) => item.conditions)),
    row,
    needsFrame: row !== null || cases.some((item) => item.conditions.some((condition) => condition.needsFrame)),
    givesTokens: false,
    access:
      definition.access === undefined
        ? shared.access
        : compileAccess(definition.access, [...path, 'access'], { ...shared, report: reportText }),
  };
}

function reportRepeatedNames(cases: readonly CaseDefinition[], path: readonly PathKey[], report: ReportAt): void {
  const first = new Map<string, number>();
  cases.forEach((item, i) => {
    const before = first.get(item.case);
    if (before === undefined) first.set(item.case, i);
    else
      report(`the case \`${item.case}\` stands twice in this operation (also as entry ${before + 1})`, [
        ...path,
        i,
        'case',
      ]);
  });
}

/** The same method and path shape twice: the second could never be reached. */
function reportTwins(operations: readonly CompiledOperation[], report: ReportAt): void {
  const first = new Map<string, CompiledOperation>();
  for (const operation of operations) {
    const told = operation.told?.map(({ place, comparison }) => `${place.text} ${comparison.wanted}`).join(', ') ?? '';
    const key = `${addressShape(operation.address)} ${told}`;
    const twin = first.get(key);
    if (twin === undefined) first.set(key, operation);
    else
      report(
        `${operation.on} is answered by operation \`${twin.name}\` already (operations.${twin.name}.on: ${twin.on})`,
        ['operations', operation.name, 'on'],
      );
  }
}

function compileContract(
  key: ContractKey,
  files: BesideFiles,
  operations: readonly CompiledOperation[],
  report: ReportAt,
): ContractKeeper | null {
  const file = contractFileOf(key) ?? '';
  try {
    const calls = typeof key === 'string' ? undefined : key.calls;
    return new ContractKeeper(openBesideContract(file, files), calls ?? 'report', operations);
  } catch (error) {
    if (!(error instanceof AppError)) throw error;
    const [first] = error.details.problems ?? [];
    report(first === undefined ? error.message : `${file}, line ${first.line}: ${first.message}`, ['contract']);
    return null;
  }
}

function compileUpsets(definition: ServiceFile, names: readonly string[], report: ReportAt): CompiledUpset[] {
  const upsets = definition.upsets ?? [];
  return upsets.map((upset, i) => {
    if (upsets.findIndex((other) => other.upset === upset.upset) < i)
      report(`the upset \`${upset.upset}\` stands twice`, ['upsets', i, 'upset']);
    const scope = {
      ...ONLY_THE_CALL,
      namespaces: definition.namespaces ?? {},
      vars: new Map(Object.entries(definition.variables ?? {})),
    };
    return compileUpset(upset, names, ['upsets', i], report, scope);
  });
}
