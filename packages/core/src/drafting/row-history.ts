import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import type { CauseFinder } from './cause.js';
import { traceGrowth } from './growing-list.js';
import type { Heard } from './heard.js';
import { eachLeaf, eachMap, isSame } from './leaves.js';
import { identityOf, namesRow, toRow } from './owner.js';
import type { RecordKind } from './record-kind.js';
import { kindNameAt } from './records.js';
import type { ValueFlow } from './value-flow.js';

/** One thing as one answer showed it. */
export interface Sighting {
  readonly kind: RecordKind;
  readonly key: string;
  /** What the row is known by: its key, together with those of its owners where it takes them. */
  readonly identity: string;
  /** What was shown, with the keys of owners that only the path shows. */
  readonly map: JsonMap;
  readonly steps: readonly (string | number)[];
}

/** What one exchange did to one row. `fields` undefined as a value: the field went away. */
export interface RowEffect {
  readonly kind: RecordKind;
  readonly key: string;
  readonly identity: string;
  type: 'insert' | 'change' | 'remove';
  readonly fields: Map<string, unknown>;
}

export interface RowHistory {
  /** Rows that were there before the session, in the order in which they were shown. */
  readonly starting: ReadonlyMap<string, readonly JsonMap[]>;
  readonly effects: ReadonlyMap<number, readonly RowEffect[]>;
  /** Changes without anything that could have caused them: things that go on by themselves. */
  readonly spontaneous: readonly {
    readonly position: number;
    readonly kind: RecordKind;
    readonly key: string;
    readonly field: string;
  }[];
}

/** What `findSightings` needs of an operation: where its path speaks of which kind. */
export interface OperationPath {
  readonly parts: readonly (string | null)[];
}

/** The things an answer shows. The kind the path speaks of is taken before others that look alike. */
export function findSightings(heard: Heard, { parts }: OperationPath, kinds: readonly RecordKind[]): Sighting[] {
  if (!heard.isSuccess) return [];
  const own = parts.flatMap((part, i) => (part === null ? (kindNameAt(parts, i) ?? []) : part)).reverse();
  const sightings: Sighting[] = [];
  const single = kinds.find(({ singlePath }) => singlePath !== null && singlePath === parts.join('/'));
  if (single !== undefined) return findSingle(single, heard);
  const above = heard.isWrite ? kinds.find(({ singlePath }) => isBelow(parts, singlePath)) : undefined;
  const shown = above === undefined ? [] : findSingle(above, { ...heard, isWrite: false });
  if (shown.length > 0) return shown;
  eachMap(heard.answerJson, (map, steps) => {
    const kind = kindOf(map, kinds, own);
    const row = kind === null ? null : toRow(kind, map, heard);
    if (kind === null || row === null) return true;
    sightings.push({ kind, key: String(map[kind.key]), identity: identityOf(kind, row), map: row, steps });
    return false;
  });
  return sightings;
}

/** `account/deposits` is below `account`. */
function isBelow(parts: readonly (string | null)[], singlePath: string | null): boolean {
  return singlePath !== null && !parts.includes(null) && parts.join('/').startsWith(`${singlePath}/`);
}

/** The one thing of its kind that a path is about, when the answer shows it. */
function findSingle(kind: RecordKind, { answerJson, sentJson, isWrite, exchange }: Heard): Sighting[] {
  if (isJsonMap(answerJson) && Object.keys(answerJson).every((field) => kind.fields.has(field)))
    return [{ kind, key: '', identity: '', map: answerJson, steps: [] }];
  // A write that is not answered with the thing still says what it is to be.
  const isPut = isWrite && exchange.method === 'PUT' && isJsonMap(sentJson);
  return isPut ? [{ kind, key: '', identity: '', map: sentJson, steps: [] }] : [];
}

const LEAST_LIKENESS = 0.6;

function kindOf(map: JsonMap, kinds: readonly RecordKind[], own: readonly string[]): RecordKind | null {
  let best: RecordKind | null = null;
  let bestScore = LEAST_LIKENESS;
  for (const kind of kinds) {
    const key = kind.singlePath === null ? map[kind.key] : null;
    if (key === undefined || key === null || !kind.keys.has(String(key))) continue;
    const fields = Object.keys(map);
    const likeness = fields.filter((field) => kind.fields.has(field)).length / fields.length;
    const at = own.indexOf(kind.name);
    const score = likeness + (at < 0 ? 0 : 0.5 / (at + 1));
    if (likeness >= LEAST_LIKENESS && score > bestScore) {
      best = kind;
      bestScore = score;
    }
  }
  return best;
}

interface Seen extends Sighting {
  readonly heard: Heard;
  readonly operation: string;
}

/** Reconstructs what happened to every row from what answers showed of it, and which call did it. */
export function traceRows(
  session: readonly { readonly heard: Heard; readonly operation: string; readonly sightings: readonly Sighting[] }[],
  flow: ValueFlow,
  causes: CauseFinder,
): RowHistory {
  const byRow = new Map<string, Seen[]>();
  const shownBy = new Map<string, Set<string>>();
  for (const { heard, operation, sightings } of session) {
    for (const sighting of sightings) {
      const id = `${sighting.kind.name} ${sighting.identity}`;
      const list = byRow.get(id) ?? [];
      byRow.set(id, list);
      list.push({ ...sighting, heard, operation });
      const view = `${operation} ${sighting.kind.name}`;
      const fields = shownBy.get(view) ?? new Set();
      shownBy.set(view, fields);
      for (const field of Object.keys(sighting.map)) fields.add(field);
    }
  }
  const tracer = new Tracer(
    session.map(({ heard }) => heard),
    flow,
    shownBy,
    causes,
  );
  for (const seen of byRow.values()) tracer.trace(seen);
  return tracer.history();
}

class Tracer {
  readonly #session: readonly Heard[];
  readonly #flow: ValueFlow;
  readonly #shownBy: ReadonlyMap<string, ReadonlySet<string>>;
  readonly #effects = new Map<number, RowEffect[]>();
  readonly #starting = new Map<string, { at: number; row: JsonMap }[]>();
  readonly #spontaneous: { position: number; kind: RecordKind; key: string; field: string }[] = [];
  readonly #causes: CauseFinder;
  readonly #writes: readonly Heard[];

  constructor(
    session: readonly Heard[],
    flow: ValueFlow,
    shownBy: ReadonlyMap<string, ReadonlySet<string>>,
    causes: CauseFinder,
  ) {
    this.#session = session;
    this.#flow = flow;
    this.#shownBy = shownBy;
    this.#causes = causes;
    this.#writes = session.filter((heard) => heard.isWrite && heard.isSuccess);
  }

  history(): RowHistory {
    const starting = new Map(
      [...this.#starting].map(([name, rows]) => [name, rows.sort((a, b) => a.at - b.at).map(({ row }) => row)]),
    );
    return { starting, effects: this.#effects, spontaneous: this.#spontaneous };
  }

  trace(seen: readonly Seen[]): void {
    const [first] = seen;
    if (first === undefined) return;
    const { kind } = first;
    const createdBy = this.#findCreation(first);
    const begin = new Map<string, unknown>();
    const now = new Map<string, { value: unknown; at: number }>();
    seen.forEach((sighting, i) => {
      const names = new Set([...Object.keys(sighting.map), ...this.#hidden(sighting, now)]);
      for (const field of names) {
        const value = sighting.map[field];
        const before = now.get(field);
        now.set(field, { value, at: sighting.heard.position });
        if (before === undefined) {
          if (i === 0 || !this.#isNew(sighting, field, value, seen.slice(0, i))) begin.set(field, value);
          else this.#change(sighting, field, value, seen[i - 1]?.heard.position ?? -1);
        } else if (!isSame(before.value, value) && !this.#grow(sighting, field, before, value))
          this.#change(sighting, field, value, before.at);
      }
    });
    const row = Object.fromEntries(begin);
    if (createdBy === null) this.#start(kind, placeInList(seen), row);
    else this.#effect(createdBy, first, 'insert', begin);
    this.#traceRemoval(first, seen);
  }

  /** Fields that this operation shows of other rows, or showed of this one, but not here: they are not there. */
  #hidden(sighting: Seen, now: ReadonlyMap<string, unknown>): string[] {
    const view = this.#shownBy.get(`${sighting.operation} ${sighting.kind.name}`);
    return [...now.keys()].filter((field) => view?.has(field) === true && !Object.hasOwn(sighting.map, field));
  }

  /** Whether a field came into being here, rather than only being shown for the first time. */
  #isNew(sighting: Seen, field: string, value: unknown, earlier: readonly Seen[]): boolean {
    const couldShow = earlier.some(
      (other) => this.#shownBy.get(`${other.operation} ${other.kind.name}`)?.has(field) === true,
    );
    if (couldShow) return true;
    if (!sighting.heard.isWrite) return this.#findSender(sighting, field, value, earlier) !== null;
    return this.#flow.isFresh(value, sighting.heard.position) || this.#isSent(sighting.heard, value);
  }

  /** The write to this row since it was last shown that sent the field with this value. */
  #findSender({ kind, key, map, heard }: Seen, field: string, value: unknown, earlier: readonly Seen[]): Heard | null {
    const since = earlier.at(-1)?.heard.position ?? -1;
    const write = this.#causes.between(since + 1, heard.position, key, kind.name);
    if (write === null || !namesRow(kind, key, map, write)) return null;
    const { sentJson } = write;
    return isJsonMap(sentJson) && isSame(sentJson[field], value) ? write : null;
  }

  #isSent(heard: Heard, value: unknown): boolean {
    if (value === null || value === undefined || typeof value === 'object') return false;
    let found = false;
    eachLeaf(heard.sentJson, (sent) => {
      found ||= sent === value;
    });
    return found;
  }

  #findCreation(first: Seen): number | null {
    const { heard, kind, key, map } = first;
    if (kind.singlePath !== null) return null;
    const namesIt = namesRow(kind, key, map, heard);
    if (heard.isWrite && (!namesIt || heard.exchange.method === 'PUT')) return heard.position;
    if (namesIt && heard.isWrite) return null;
    if (kind.owner?.isKey === true) return this.#findOwnedCreation(first);
    const made = this.#flow.madeAt(key);
    const maker = made === null ? undefined : this.#session[made];
    if (maker?.isWrite === true && maker.isSuccess) return made;
    const put = this.#writes.find(
      (write) =>
        write.position < heard.position &&
        ((write.exchange.method === 'PUT' && write.segments.at(-1) === key) || sentKey(write, kind.key) === key),
    );
    return put?.position ?? null;
  }

  /** A key that is counted anew within each owner says nothing by itself: the write was at the owner's own path. */
  #findOwnedCreation({ heard, kind, key, map }: Seen): number | null {
    const put = this.#writes.findLast(
      (write) =>
        write.position < heard.position &&
        ((write.exchange.method === 'PUT' && namesRow(kind, key, map, write)) ||
          (write.location !== null &&
            namesRow(kind, key, map, { segments: write.location.split(/[/?#]/), caller: write.caller }))),
    );
    return put?.position ?? null;
  }

  #traceRemoval(row: Sighting, seen: readonly Seen[]): void {
    const { kind, key, map } = row;
    if (kind.singlePath !== null) return;
    const names = (naming: Heard): boolean => namesRow(kind, key, map, naming);
    const removal = this.#writes.find(
      (write) =>
        write.exchange.method === 'DELETE' &&
        write.segments.at(-1) === key &&
        names(write) &&
        kindOfPath(write, key, seen),
    );
    if (removal === undefined) return;
    const isStillThere = seen.some((sighting) => sighting.heard.position > removal.position && names(sighting.heard));
    if (!isStillThere) this.#effect(removal.position, row, 'remove', new Map());
  }

  /** A list within the row that several writes added to. */
  #grow(row: Seen, field: string, before: { value: unknown; at: number }, value: unknown): boolean {
    if (!Array.isArray(value)) return false;
    const { kind, key, map, heard } = row;
    const writes = this.#causes
      .allBetween(before.at + 1, heard.position + 1, key)
      .filter((write) => kind.owner?.isKey !== true || namesRow(kind, key, map, write));
    const steps = traceGrowth(before.value, value, writes);
    if (steps === null) return false;
    for (const step of steps) this.#effect(step.write.position, row, 'change', new Map([[field, step.value]]));
    return true;
  }

  #change(sighting: Seen, field: string, value: unknown, since: number): void {
    const { kind, key, heard } = sighting;
    const cause = heard.isWrite ? heard.position : this.#findCause(sighting, since);
    if (cause === null) this.#spontaneous.push({ position: heard.position, kind, key, field });
    // Nothing did it: it came about by itself, at the latest when it was seen.
    this.#effect(cause ?? heard.position, sighting, 'change', new Map([[field, value]]));
  }

  #findCause({ kind, key, map, heard }: Seen, since: number): number | null {
    if (kind.owner?.isKey === true) {
      const own = this.#causes
        .allBetween(since + 1, heard.position, key)
        .findLast((write) => namesRow(kind, key, map, write));
      if (own !== undefined) return own.position;
    }
    return this.#causes.between(since + 1, heard.position, key, '')?.position ?? null;
  }

  #start(kind: RecordKind, at: number, row: JsonMap): void {
    const rows = this.#starting.get(kind.name) ?? [];
    this.#starting.set(kind.name, rows);
    rows.push({ at, row });
  }

  #effect(
    position: number,
    { kind, key, identity }: Sighting,
    type: RowEffect['type'],
    fields: Map<string, unknown>,
  ): void {
    const effects = this.#effects.get(position) ?? [];
    this.#effects.set(position, effects);
    const same = effects.find((effect) => effect.kind === kind && effect.identity === identity);
    if (same === undefined) {
      effects.push({ kind, key, identity, type, fields });
      return;
    }
    for (const [field, value] of fields) same.fields.set(field, value);
    if (type !== 'change') same.type = type;
  }
}

/** Where a row stood before the session: its place in the first list that showed it, else when it was first shown. */
function placeInList(seen: readonly Seen[]): number {
  const listed = seen.find(({ steps }) => steps.some((step) => typeof step === 'number'));
  const index = listed?.steps.find((step) => typeof step === 'number') as number | undefined;
  return listed === undefined ? (seen[0]?.heard.position ?? 0) : listed.heard.position + (index ?? 0) / MOST_IN_LIST;
}

const MOST_IN_LIST = 1_000_000;

function sentKey(write: Heard, field: string): string | null {
  const { sentJson } = write;
  if (sentJson === null || typeof sentJson !== 'object') return null;
  const value = (sentJson as JsonMap)[field];
  return value === undefined || value === null || typeof value === 'object' ? null : String(value);
}

/** Whether a path that ends with the key speaks of this kind: some sighting was at a path of the same words. */
function kindOfPath(write: Heard, key: string, seen: readonly Seen[]): boolean {
  const word = write.segments.at(-2) ?? '';
  return seen.some(
    ({ kind, heard }) =>
      (heard.segments.at(-2) === word && heard.segments.at(-1) === key) ||
      kind.name.toLowerCase() === word.replaceAll(/[^A-Za-z0-9]/g, '').toLowerCase(),
  );
}
