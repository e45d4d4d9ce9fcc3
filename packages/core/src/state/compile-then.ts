import { compileData, toEvaluate } from '../answer/compile-data.js';
import { compileText, type TextScope } from '../answer/compile-text.js';
import { findNearest } from '../definition/nearest.js';
import type { ThenStep } from '../definition/then-step.js';
import type { PathKey } from '../definition/yaml-source.js';
import { type Evaluate, type Frame, fail } from '../expression/frame.js';
import { isMapValue, OMIT, toText, typeName, type ValueMap } from '../expression/value.js';
import { describeUnknownDataset } from './compile-row-pick.js';
import { compileWhere, type EvaluateWhere } from './compile-where.js';
import { findMissingField, identifyRow, type RowKey } from './row-key.js';
import { findRows } from './rows.js';

/** A change that is decided, ready to be made: nothing can fail in it but a full state or dataset. */
export type Change = (frame: Frame) => void;
/** Evaluates one step with everything as it was before the call; what it gives is applied with the others at once. */
export type CompiledStep = (frame: Frame) => Change;

/** `datasetKeys`: the key of each dataset there is. */
export interface ThenScope {
  readonly text: TextScope;
  readonly datasetKeys: ReadonlyMap<string, RowKey>;
}

export function compileThen(
  steps: readonly ThenStep[] | undefined,
  path: readonly PathKey[],
  scope: ThenScope,
): readonly CompiledStep[] | null {
  const compiled = (steps ?? []).flatMap((step, i) => compileStep(step, [...path, i], scope));
  return compiled.length === 0 ? null : compiled;
}

function compileStep(step: ThenStep, path: readonly PathKey[], scope: ThenScope): CompiledStep[] {
  if (step.set !== undefined)
    return Object.entries(step.set).flatMap(
      ([target, value]) => compileSet(target, value, [...path, 'set', target], scope) ?? [],
    );
  if (step.insert !== undefined) return [compileInsert(step.insert, [...path, 'insert'], scope)];
  if (step.change !== undefined) return [compileChange(step.change, [...path, 'change'], scope)];
  if (step.replace !== undefined) return [compileReplace(step.replace, [...path, 'replace'], scope)];
  if (step.log !== undefined) return [compileLog(step.log, [...path, 'log'], scope)];
  if (step.remove !== undefined) return [compileRemove(step.remove, [...path, 'remove'], scope)];
  return [];
}

const TARGET = /^([A-Za-z_]\w*)(?:\[(.*)\])?$/s;

/** `pilot: Ida`, `held[${call.path.berthId}]: Petrel`. */
function compileSet(target: string, value: unknown, path: readonly PathKey[], scope: ThenScope): CompiledStep | null {
  const [, name = '', key] = TARGET.exec(target) ?? [];
  const declared = scope.text.names.state;
  if (!declared.includes(name)) {
    const nearest = findNearest(name, declared);
    const hint = nearest === null ? 'declare it under `state` with its starting value' : `did you mean \`${nearest}\`?`;
    scope.text.report(`the state \`${name === '' ? target : name}\` is not declared; ${hint}`, path);
    return null;
  }
  const readValue = toEvaluate(compileData(value, path, scope.text));
  if (key === undefined)
    return (frame) => {
      const given = known(readValue(frame));
      return ({ lane }) => lane.data.set(name, given);
    };
  const keyText = compileText(key, path, scope.text);
  const readKey: Evaluate = keyText.kind === 'constant' ? () => keyText.text : keyText.evaluate;
  return (frame) => {
    const given = known(readValue(frame));
    const at = toText(readKey(frame));
    return ({ lane, start }) => lane.data.setKeyed(name, at, given, start);
  };
}

function known(value: unknown): unknown {
  return value === OMIT || value === undefined ? null : value;
}

function compileInsert(
  step: NonNullable<ThenStep['insert']>,
  path: readonly PathKey[],
  scope: ThenScope,
): CompiledStep {
  const key = requireDataset(step.into, [...path, 'into'], scope);
  const isOne = step.row !== undefined;
  const read = toEvaluate(compileData(step.row ?? step.rows, [...path, isOne ? 'row' : 'rows'], scope.text));
  return (frame) => {
    const given = read(frame);
    if (!isOne && !Array.isArray(given)) return fail(`\`rows\` needs a list, not ${typeName(given)}`);
    const made = isOne ? [given] : (given as readonly unknown[]);
    const rows = made.map((row) => needRow(row, key, `a row for ${step.into}`));
    return ({ lane, start }) => {
      for (const row of rows) lane.data.putRow(step.into, row, start);
    };
  };
}

/** Fields of the rows that are meant are set; others stay. */
function compileChange(
  step: NonNullable<ThenStep['change']>,
  path: readonly PathKey[],
  scope: ThenScope,
): CompiledStep {
  requireDataset(step.of, [...path, 'of'], scope);
  const readWhere = compileWhere(step.where, [...path, 'where'], scope.text);
  const readFields = toEvaluate(compileData(step.to, [...path, 'to'], scope.text));
  return (frame) => {
    const fields = readFields(frame);
    if (!isMapValue(fields)) return fail(`\`to\` needs a map, not ${typeName(fields)}`);
    const rows = rowsAt(frame, step.of, readWhere);
    return ({ lane, start }) => {
      for (const row of rows) lane.data.putRow(step.of, { ...row, ...fields }, start);
    };
  };
}

function compileReplace(
  step: NonNullable<ThenStep['replace']>,
  path: readonly PathKey[],
  scope: ThenScope,
): CompiledStep {
  const key = requireDataset(step.of, [...path, 'of'], scope);
  const readWhere = compileWhere(step.where, [...path, 'where'], scope.text);
  const readRow = toEvaluate(compileData(step.row, [...path, 'row'], scope.text));
  return (frame) => {
    const row = needRow(readRow(frame), key, `a row for ${step.of}`);
    const before = rowsAt(frame, step.of, readWhere);
    return ({ lane, start }) => {
      for (const old of before)
        if (identifyRow(old, key) !== identifyRow(row, key)) lane.data.removeRow(step.of, old, start);
      if (before.length > 0) lane.data.putRow(step.of, row, start);
    };
  };
}

function compileRemove(
  step: NonNullable<ThenStep['remove']>,
  path: readonly PathKey[],
  scope: ThenScope,
): CompiledStep {
  requireDataset(step.of, [...path, 'of'], scope);
  const readWhere = compileWhere(step.where, [...path, 'where'], scope.text);
  return (frame) => {
    const rows = rowsAt(frame, step.of, readWhere);
    return ({ lane, start }) => {
      for (const row of rows) lane.data.removeRow(step.of, row, start);
    };
  };
}

/** A line that stays with the call. */
function compileLog(line: string, path: readonly PathKey[], scope: ThenScope): CompiledStep {
  const text = compileText(line, path, scope.text);
  const read: Evaluate = text.kind === 'constant' ? () => text.text : text.evaluate;
  return (frame) => {
    const note = toText(read(frame)).slice(0, LONGEST_NOTE);
    return (own) => {
      own.notes = [...(own.notes ?? []), note];
    };
  };
}

const LONGEST_NOTE = 2_000;

function rowsAt(frame: Frame, dataset: string, readWhere: EvaluateWhere) {
  const rows = frame.lane.data.rows(dataset, frame.start);
  return rows === null ? [] : findRows(rows, readWhere(frame));
}

/** The key of the dataset; an unknown one is reported. */
function requireDataset(name: string, path: readonly PathKey[], { text, datasetKeys }: ThenScope): RowKey {
  const key = datasetKeys.get(name);
  if (key !== undefined) return key;
  text.report(describeUnknownDataset(name, [...datasetKeys.keys()]), path);
  return ['id'];
}

function needRow(value: unknown, key: RowKey, what: string): ValueMap {
  if (!isMapValue(value)) return fail(`${what} is a map, not ${typeName(value)}`);
  const missing = findMissingField(value, key);
  return missing === null ? value : fail(`${what} needs its key \`${missing}\`, a text or a number`);
}
