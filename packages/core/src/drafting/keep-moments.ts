import type { WrittenCase } from './emit-operation.js';
import { sinceName } from './member.js';
import type { RecordKind } from './record-kind.js';

interface WrittenStep {
  readonly insert?: { readonly into: string; readonly row: string };
  readonly replace?: { readonly of: string; readonly where: Readonly<Record<string, string>> };
}

/** Cases that write rows of a kind keep the moment, where something comes about by itself some time after it. */
export function keepMoments(cases: readonly WrittenCase[], kinds: readonly RecordKind[]): readonly WrittenCase[] {
  if (kinds.length === 0) return cases;
  return cases.map((item) => {
    const steps = (item['then'] ?? []) as readonly WrittenStep[];
    const more = kinds.flatMap((kind) => steps.flatMap((step) => momentOf(step, kind)));
    // biome-ignore lint/suspicious/noThenProperty: the word of the service file; a case is never awaited
    return more.length === 0 ? item : { ...item, then: [...steps, ...more] };
  });
}

function momentOf(step: WrittenStep, kind: RecordKind): unknown[] {
  const made = step.insert?.into === kind.name ? /^\$\{(let\.\w+)\}$/.exec(step.insert.row)?.[1] : undefined;
  const changed = step.replace?.of === kind.name ? step.replace.where[kind.key] : undefined;
  const key = made === undefined ? changed : `\${${made}.${kind.key}}`;
  return key === undefined ? [] : [{ set: { [`${sinceName(kind)}[${key}]`]: '${now}' } }];
}
