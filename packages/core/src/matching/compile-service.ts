import { type CompiledAnswer, compileAnswer } from '../answer/compile-answer.js';
import { createTextScope } from '../answer/compile-text.js';
import type { CaseDefinition, OperationDefinition, ServiceFile } from '../definition/service-file.js';
import type { PathKey, Spot } from '../definition/yaml-source.js';
import { type CompiledUpset, compileUpset } from '../upset/compile-upset.js';
import { buildCaseIndex, type CaseIndex } from './case-index.js';
import { type CompiledCondition, compileWhen } from './compile-condition.js';
import { addressShape, type OperationAddress, parseOperationAddress } from './path-template.js';
import { SegmentTrie } from './segment-trie.js';

export interface CompiledCase {
  readonly name: string;
  readonly conditions: readonly CompiledCondition[];
  readonly answer: CompiledAnswer;
}

export interface CompiledOperation {
  readonly name: string;
  readonly on: string;
  readonly address: OperationAddress;
  readonly cases: readonly CompiledCase[];
  readonly index: CaseIndex | null;
}

/** A service as closures and tries. Immutable: an edit compiles a new one, and a call keeps the one it began with. */
export interface CompiledService {
  readonly name: string;
  readonly definition: ServiceFile;
  readonly operations: readonly CompiledOperation[];
  readonly trie: SegmentTrie<CompiledOperation>;
  readonly upsets: readonly CompiledUpset[];
  readonly cors: boolean;
}

/** What a definition does not say rightly, each with its spot in the file. */
export interface CompileProblem {
  readonly message: string;
  readonly spot: Spot;
}

export type CompileResult =
  | { readonly kind: 'compiled'; readonly service: CompiledService }
  | { readonly kind: 'refused'; readonly problems: readonly CompileProblem[] };

type Report = (message: string, path: readonly PathKey[], more?: { atKey?: boolean; offset?: number }) => void;

/** The one compile step: names checked, templates to tries, conditions and expressions to closures, constant answers to bytes. */
export function compileService(definition: ServiceFile): CompileResult {
  const problems: CompileProblem[] = [];
  const report: Report = (message, path, more = {}) => problems.push({ message, spot: { path, ...more } });
  const operations = Object.entries(definition.operations).flatMap(
    ([name, operation]) => compileOperation(name, operation, report) ?? [],
  );
  reportTwins(operations, report);
  const upsets = compileUpsets(definition, report);
  if (problems.length > 0) return { kind: 'refused', problems };
  const trie = new SegmentTrie<CompiledOperation>();
  for (const operation of operations) trie.add(operation.address, operation);
  return {
    kind: 'compiled',
    service: { name: definition.service, definition, operations, trie, upsets, cors: definition.cors ?? true },
  };
}

function compileOperation(name: string, definition: OperationDefinition, report: Report): CompiledOperation | null {
  const path = ['operations', name];
  const parsed = parseOperationAddress(definition.on);
  if (parsed.kind === 'refused') {
    report(parsed.message, [...path, 'on']);
    return null;
  }
  reportRepeatedNames(definition.cases, [...path, 'cases'], report);
  const cases = definition.cases.map((item, i) =>
    compileCase(item, parsed.address.names, [...path, 'cases', i], report),
  );
  return {
    name,
    on: definition.on.trim(),
    address: parsed.address,
    cases,
    index: buildCaseIndex(cases.map((item) => item.conditions)),
  };
}

function compileCase(
  definition: CaseDefinition,
  pathNames: readonly string[],
  path: readonly PathKey[],
  report: Report,
): CompiledCase {
  const conditions = compileWhen(definition.when, pathNames, [...path, 'when'], (message, at, atKey) =>
    report(message, at, { atKey }),
  );
  const scope = createTextScope(
    (message, at, offset) => report(message, at, offset === undefined ? {} : { offset }),
    pathNames,
  );
  return { name: definition.case, conditions, answer: compileAnswer(definition.answer, [...path, 'answer'], scope) };
}

function reportRepeatedNames(cases: readonly CaseDefinition[], path: readonly PathKey[], report: Report): void {
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
function reportTwins(operations: readonly CompiledOperation[], report: Report): void {
  const first = new Map<string, CompiledOperation>();
  for (const operation of operations) {
    const key = addressShape(operation.address);
    const twin = first.get(key);
    if (twin === undefined) first.set(key, operation);
    else
      report(
        `${operation.on} is answered by operation \`${twin.name}\` already (operations.${twin.name}.on: ${twin.on})`,
        ['operations', operation.name, 'on'],
      );
  }
}

function compileUpsets(definition: ServiceFile, report: Report): CompiledUpset[] {
  const names = Object.keys(definition.operations);
  const upsets = definition.upsets ?? [];
  return upsets.map((upset, i) => {
    if (upsets.findIndex((other) => other.upset === upset.upset) < i)
      report(`the upset \`${upset.upset}\` stands twice`, ['upsets', i, 'upset']);
    return compileUpset(upset, names, ['upsets', i], report);
  });
}
