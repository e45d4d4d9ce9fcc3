import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import { explainCountedKey, explainOwners } from './counted-key.js';
import type { ExplainOptions, Instance } from './explain-source.js';
import { explainValues } from './explain-value.js';
import type { Member } from './member.js';
import type { RecordKind } from './record-kind.js';

/** The templates of rows that are made: whose they are is read from the call, keys that nothing else makes are counted. */
export function explainRows(
  kind: RecordKind,
  rows: readonly JsonMap[],
  members: readonly Member[],
  instances: readonly Instance[],
  options: ExplainOptions,
): readonly unknown[] {
  const explained = explainValues(rows, instances, options, kind.noun);
  if (!explained.every(isJsonMap)) return explained;
  const isMade = explained.every(
    (row) => typeof row[kind.key] === 'string' && row[kind.key] === explained[0]?.[kind.key],
  );
  const key =
    kind.singlePath !== null || (isMade && kind.owner?.isKey !== true)
      ? null
      : explainCountedKey(kind, rows, members, instances);
  const owned = { ...explainOwners(kind, rows, instances), ...(key === null ? {} : { [kind.key]: key }) };
  return explained.map((template) => ({ ...template, ...owned }));
}
