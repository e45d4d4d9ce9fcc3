import { isJsonMap } from '../definition/json-map.js';
import type { Heard } from './heard.js';
import { isSame } from './leaves.js';
import { type SubjectRow, subjectIn } from './member.js';
import type { RowEffect, RowHistory, Sighting } from './row-history.js';

interface HeardCall<Operation> {
  readonly heard: Heard;
  readonly operation: Operation;
  readonly sightings: readonly Sighting[];
}

/**
 * What a write did to one row it did to others, too, though no answer showed these again: every call of an operation that
 * was seen to put a star on its film put one on.
 */
export function addUnseenEffects<Operation>(
  history: RowHistory,
  calls: readonly HeardCall<Operation>[],
  subjectOf: (operation: Operation) => SubjectRow | null,
): RowHistory {
  const effects = new Map(history.effects);
  const writes = new Map<Operation, HeardCall<Operation>[]>();
  for (const call of calls)
    if (call.heard.isWrite && call.heard.isSuccess && subjectOf(call.operation)?.isPath === true)
      writes.set(call.operation, [...(writes.get(call.operation) ?? []), call]);
  const lastShown = indexShown(calls);
  for (const [operation, own] of writes) {
    const subject = subjectOf(operation) as SubjectRow;
    const seen = own.map(({ heard }) => findOwn(effects.get(heard.position) ?? [], subject, heard));
    const rule = findRule(own, seen);
    if (rule === null) continue;
    for (const [i, { heard }] of own.entries()) {
      const identity = subjectIn(subject, heard);
      if (seen[i] !== undefined) continue;
      const fields = [...rule(heard)].filter(
        ([field]) => (lastShown.get(`${subject.kind.name} ${identity} ${field}`) ?? -1) < heard.position,
      );
      if (fields.length === 0) continue;
      const key = subject.keysOf(heard).at(-1) ?? '';
      const effect: RowEffect = { kind: subject.kind, key, identity, type: 'change', fields: new Map(fields) };
      effects.set(heard.position, [...(effects.get(heard.position) ?? []), effect]);
    }
  }
  return { ...history, effects };
}

function findOwn(effects: readonly RowEffect[], subject: SubjectRow, heard: Heard): RowEffect | undefined {
  const identity = subjectIn(subject, heard);
  return effects.find((effect) => effect.kind === subject.kind && effect.identity === identity);
}

/** Where each field of each row was shown last. */
function indexShown(calls: readonly HeardCall<unknown>[]): ReadonlyMap<string, number> {
  const last = new Map<string, number>();
  for (const { heard, sightings } of calls)
    for (const { kind, identity, map } of sightings)
      for (const field of Object.keys(map)) last.set(`${kind.name} ${identity} ${field}`, heard.position);
  return last;
}

/** The fields that every change that was seen came to: always the same value, or what the call sent. Null when there are none. */
function findRule<Operation>(
  calls: readonly HeardCall<Operation>[],
  seen: readonly (RowEffect | undefined)[],
): ((heard: Heard) => Map<string, unknown>) | null {
  const known = calls.flatMap(({ heard }, i) => {
    const effect = seen[i];
    return effect?.type === 'change' ? [{ heard, fields: effect.fields }] : [];
  });
  const [first] = known;
  if (first === undefined || known.length === calls.length) return null;
  const names = [...first.fields.keys()].filter((name) => known.every(({ fields }) => fields.has(name)));
  const fixed = names.filter((name) => known.every(({ fields }) => isSame(fields.get(name), first.fields.get(name))));
  const sent = names.filter(
    (name) =>
      !fixed.includes(name) && known.every(({ heard, fields }) => isSame(fields.get(name), sentField(heard, name))),
  );
  if (fixed.length + sent.length === 0) return null;
  return (heard) =>
    new Map([
      ...fixed.map((name) => [name, first.fields.get(name)] as const),
      ...sent.flatMap((name) => {
        const value = sentField(heard, name);
        return value === undefined ? [] : [[name, value] as const];
      }),
    ]);
}

function sentField({ sentJson }: Heard, name: string): unknown {
  return isJsonMap(sentJson) ? sentJson[name] : undefined;
}
