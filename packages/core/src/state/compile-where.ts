import { compileData, toEvaluate } from '../answer/compile-data.js';
import type { TextScope } from '../answer/compile-text.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { Frame } from '../expression/frame.js';
import type { Where } from './rows.js';

/** Which rows are meant on one call. */
export type EvaluateWhere = (frame: Frame) => Where;

export function compileWhere(
  where: Readonly<Record<string, unknown>>,
  path: readonly PathKey[],
  scope: TextScope,
): EvaluateWhere {
  const fields = Object.entries(where).map(
    ([field, value]) => [field, toEvaluate(compileData(value, [...path, field], scope))] as const,
  );
  return (frame) => fields.map(([field, read]) => [field, read(frame)] as const);
}
