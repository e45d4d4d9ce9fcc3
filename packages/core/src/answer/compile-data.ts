import type { PathKey } from '../definition/yaml-source.js';
import type { Evaluate } from '../expression/frame.js';
import { OMIT } from '../expression/value.js';
import { compileText, type TextScope } from './compile-text.js';

/** A JSON value of the file as the value it stands for on a call: constant, or built anew where expressions are in it. */
export type CompiledData =
  | { readonly kind: 'constant'; readonly value: unknown }
  | { readonly kind: 'computed'; readonly evaluate: Evaluate };

export function compileData(value: unknown, path: readonly PathKey[], scope: TextScope): CompiledData {
  if (typeof value === 'string') {
    const text = compileText(value, path, scope);
    return text.kind === 'constant' ? constant(text.text) : { kind: 'computed', evaluate: text.evaluate };
  }
  if (value === null || typeof value !== 'object') return constant(value);
  if (Array.isArray(value)) {
    const items = value.map((item, i) => compileData(item, [...path, i], scope));
    if (items.every(isConstant)) return constant(items.map((item) => item.value));
    const reads = items.map(toEvaluate);
    return { kind: 'computed', evaluate: (frame) => reads.map((read) => read(frame)).filter((item) => item !== OMIT) };
  }
  const members = Object.entries(value).map(
    ([key, member]) => [key, compileData(member, [...path, key], scope)] as const,
  );
  if (members.every(([, member]) => isConstant(member))) return constant(value);
  const reads = members.map(([key, member]) => [key, toEvaluate(member)] as const);
  return {
    kind: 'computed',
    evaluate: (frame) =>
      Object.fromEntries(
        reads.map(([key, read]) => [key, read(frame)] as const).filter(([, member]) => member !== OMIT),
      ),
  };
}

/** The value on a call, whichever kind it is. */
export function toEvaluate(data: CompiledData): Evaluate {
  if (data.kind === 'computed') return data.evaluate;
  const { value } = data;
  return () => value;
}

function isConstant(data: CompiledData): data is Extract<CompiledData, { kind: 'constant' }> {
  return data.kind === 'constant';
}

function constant(value: unknown): CompiledData {
  return { kind: 'constant', value };
}
