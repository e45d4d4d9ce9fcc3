import { compileAnswer } from '../answer/compile-answer.js';
import { compileData, toEvaluate } from '../answer/compile-data.js';
import { createTextScope, type TextScope } from '../answer/compile-text.js';
import { type CompiledTurns, compileTurns } from '../answer/compile-turns.js';
import type { CompiledAnswer } from '../answer/compiled-answer.js';
import { compileExact, type ExactPlace } from '../answer/exact-place.js';
import { type CompiledCallback, compileCallbacks } from '../callback/compile-callback.js';
import type { Answer } from '../definition/answer.js';
import type { CaseDefinition } from '../definition/service-file.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { NamesInScope } from '../expression/compile-context.js';
import type { Evaluate } from '../expression/frame.js';
import { type CompiledStep, compileThen } from '../state/compile-then.js';
import type { RowKey } from '../state/row-key.js';
import { type CompiledCondition, compileWhen } from './compile-condition.js';

export interface CompiledCase {
  readonly name: string;
  /** As the file has it; of a resource's case, what stands for it. */
  readonly definition: CaseDefinition;
  /** What it serves, where that is no answer of the file: the rows of a dataset, tokens; null: it is a case of the file. */
  readonly added: AddedAnswers | null;
  readonly conditions: readonly CompiledCondition[];
  /** The values of `let`, in order; null when there are none. */
  readonly lets: readonly Evaluate[] | null;
  readonly answer: CompiledAnswer;
  /** Several answers in the place of one; null when there is one. */
  readonly turns: CompiledTurns | null;
  /** What `then` does; null when nothing. */
  readonly steps: readonly CompiledStep[] | null;
  /** Calls that are made once the answer is sent; null when there are none. */
  readonly callbacks: readonly CompiledCallback[] | null;
  /** What a trial compares by value. */
  readonly exact: readonly ExactPlace[];
}

/** The answers of a case that the file does not write out. `from`: what people call their source. */
export interface AddedAnswers {
  readonly from: string;
  readonly answers: readonly Answer[];
}

export type ReportAt = (message: string, path: readonly PathKey[], more?: { atKey?: boolean; offset?: number }) => void;

/** `names`: what every expression of the operation may use; `datasetKeys`: the key of each dataset. */
export interface CaseScope {
  readonly names: NamesInScope;
  readonly datasetKeys: ReadonlyMap<string, RowKey>;
  readonly report: ReportAt;
}

export function compileCase(definition: CaseDefinition, path: readonly PathKey[], scope: CaseScope): CompiledCase {
  const { report } = scope;
  const text = createTextScope(
    (message, at, offset) => report(message, at, offset === undefined ? {} : { offset }),
    scope.names,
  );
  const conditions = compileWhen(
    definition.when,
    { path: scope.names.path, text, namespaces: scope.names.namespaces },
    [...path, 'when'],
    (message, at, atKey) => report(message, at, { atKey }),
  );
  const lets = compileLets(definition.let, [...path, 'let'], text);
  const inAnswer: TextScope = { ...text, names: { ...scope.names, lets: Object.keys(definition.let ?? {}) } };
  const inThen: TextScope = { ...inAnswer, names: { ...inAnswer.names, answer: true } };
  const { turns, ...answer } = definition.answer;
  return {
    name: definition.case,
    definition,
    added: null,
    conditions,
    lets,
    answer: compileAnswer(answer, [...path, 'answer'], inAnswer),
    turns: turns === undefined ? null : compileTurns(turns, [...path, 'answer', 'turns'], inAnswer),
    exact: compileExact(definition.exact, [...path, 'exact'], report),
    steps: compileThen(definition.then, [...path, 'then'], { text: inThen, datasetKeys: scope.datasetKeys }),
    callbacks: compileCallbacks(definition.then, [...path, 'then'], inThen),
  };
}

/** Each value of `let` may use those before it. */
function compileLets(
  definition: CaseDefinition['let'],
  path: readonly PathKey[],
  scope: TextScope,
): readonly Evaluate[] | null {
  const entries = Object.entries(definition ?? {});
  if (entries.length === 0) return null;
  const names = entries.map(([name]) => name);
  return entries.map(([name, value], i) =>
    toEvaluate(compileData(value, [...path, name], { ...scope, names: { ...scope.names, lets: names.slice(0, i) } })),
  );
}
