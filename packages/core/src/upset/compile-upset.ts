import { compileAnswer } from '../answer/compile-answer.js';
import { createTextScope } from '../answer/compile-text.js';
import type { CompiledAnswer } from '../answer/compiled-answer.js';
import { findNearest } from '../definition/nearest.js';
import type { UpsetDefinition } from '../definition/upset.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type NamesInScope, ONLY_THE_CALL } from '../expression/compile-context.js';
import { type CompiledCondition, compileWhen } from '../matching/compile-condition.js';
import { type CompiledBreak, compileBreak } from './compile-break.js';
import { type CompiledDelay, compileDelay } from './compile-delay.js';
import { type CompiledPace, compilePace } from './compile-pace.js';
import { type CompiledTiming, compileTiming } from './compile-timing.js';

/** One upset, ready to be asked on each call. `null` stands for what it does not limit or do. */
export interface CompiledUpset {
  readonly name: string;
  readonly definition: UpsetDefinition;
  readonly operations: ReadonlySet<string> | null;
  readonly conditions: readonly CompiledCondition[] | null;
  readonly timing: CompiledTiming | null;
  readonly delay: CompiledDelay | null;
  readonly pace: CompiledPace | null;
  readonly answer: CompiledAnswer | null;
  readonly break: CompiledBreak | null;
}

export type ReportAt = (message: string, path: readonly PathKey[], more?: { atKey?: boolean; offset?: number }) => void;

/** `operationNames`: the operations of the service it belongs to; `path`: where it stands in the file. */
export function compileUpset(
  definition: UpsetDefinition,
  operationNames: readonly string[],
  path: readonly PathKey[],
  report: ReportAt,
  names: NamesInScope = ONLY_THE_CALL,
): CompiledUpset {
  definition.of?.forEach((name, i) => {
    if (operationNames.includes(name)) return;
    const nearest = findNearest(name, operationNames);
    report(`there is no operation \`${name}\`${nearest === null ? '' : `; did you mean \`${nearest}\`?`}`, [
      ...path,
      'of',
      i,
    ]);
  });
  const conditions = compileWhen(
    definition.when,
    { path: [], text: null, namespaces: names.namespaces },
    [...path, 'when'],
    (message, at, atKey) => report(message, at, { atKey }),
  );
  const scope = createTextScope(
    (message, at, offset) => report(message, at, offset === undefined ? {} : { offset }),
    names,
  );
  return {
    name: definition.upset,
    definition,
    operations: definition.of === undefined ? null : new Set(definition.of),
    conditions: conditions.length === 0 ? null : conditions,
    timing: compileTiming(definition),
    delay: definition.delay === undefined ? null : compileDelay(definition.delay),
    pace: definition.pace === undefined ? null : compilePace(definition.pace),
    break: definition.break === undefined ? null : compileBreak(definition.break),
    answer: definition.answer === undefined ? null : compileAnswer(definition.answer, [...path, 'answer'], scope),
  };
}
