import type { CaseClass } from './classes.js';
import type { Heard } from './heard.js';
import type { Run, StateSite } from './state-site.js';

/** The value of a state before anything changed it. */
export const START = 'start';

/** One site's answers for one key, as runs. */
export interface SiteLine {
  readonly site: StateSite;
  readonly runs: readonly Run[];
}

/** The values one variable takes: which write leaves which, and which answer each stands for. */
export interface LabelPlan {
  readonly changes: ReadonlyMap<CaseClass, LabelChange>;
  readonly told: ReadonlyMap<StateSite, ReadonlyMap<CaseClass, ReadonlySet<string>>>;
  /** Every write moves on from exactly one label to the next. */
  readonly isExact: boolean;
}

/** What the case of a write does to the variable: label before -> label after; and what each write did. */
export interface LabelChange {
  readonly labels: ReadonlyMap<string, string>;
  readonly example: Example;
  readonly moves: ReadonlyMap<Heard, { readonly before: string; readonly after: string }>;
}

interface Example {
  readonly heard: Heard;
  readonly key: string;
}

type ClassOf = (write: Heard) => { readonly answer: CaseClass; readonly label: string } | null;

/**
 * Labels for the states of one variable. First the fewest: the same write leaves the same label wherever the answers
 * agree, so that a write that is repeated shifts nothing. Where that does not play the session rightly (`writes` given),
 * every write that belongs to a cause moves on by one.
 */
export function planLabels(
  byKey: ReadonlyMap<string, readonly SiteLine[]>,
  writes: readonly Heard[] | null,
  classOf: ClassOf,
): LabelPlan {
  const merged = new Labels(classOf, false);
  for (const [key, lines] of byKey) labelKey(merged, key, lines, causesOf(lines));
  if (writes === null || plays(merged, [...byKey.values()].flat(), writes, classOf)) return merged.plan();
  const exact = new Labels(classOf, true);
  for (const [key, lines] of byKey) {
    const classes = new Set(causesOf(lines).map((cause) => classOf(cause)?.answer));
    labelKey(
      exact,
      key,
      lines,
      writes.filter((write) => classes.has(classOf(write)?.answer)),
    );
  }
  return exact.plan();
}

function causesOf(lines: readonly SiteLine[]): Heard[] {
  const causes = new Set(lines.flatMap(({ runs }) => runs.flatMap((run) => run.cause ?? [])));
  return [...causes].sort((a, b) => a.position - b.position);
}

function labelKey(labels: Labels, key: string, lines: readonly SiteLine[], events: readonly Heard[]): void {
  const begun = lines.map(({ runs }) => new Map(runs.map((run) => [run.cause, run.answer])));
  const current = lines.map(({ runs }) => runs[0]?.answer);
  lines.forEach(({ site }, i) => {
    labels.note(site, current[i], START);
  });
  let label = START;
  for (const event of events) {
    begun.forEach((line, i) => {
      current[i] = line.get(event) ?? current[i];
    });
    label = labels.after(event, label, new Map(lines.map(({ site }, i) => [site, current[i]])), key);
    lines.forEach(({ site }, i) => {
      labels.note(site, current[i], label);
    });
  }
}

/** Which answer each site gives. */
type Versions = Map<StateSite, CaseClass | undefined>;

/** No site is answered one way here and another way there. */
function agree(a: Versions, b: Versions): boolean {
  for (const [site, answer] of b) if (a.has(site) && a.get(site) !== answer) return false;
  return true;
}

interface OwnChange {
  readonly labels: Map<string, string>;
  readonly example: Example;
  readonly moves: Map<Heard, { before: string; after: string }>;
}

/** The values one variable takes, named for the write that left them; numbered where it left different things. */
class Labels {
  readonly #classOf: ClassOf;
  readonly #isExact: boolean;
  readonly #known = new Map<CaseClass, { label: string; versions: Versions }[]>();
  readonly #counts = new Map<string, number>();
  readonly changes = new Map<CaseClass, OwnChange>();
  readonly told = new Map<StateSite, Map<CaseClass, Set<string>>>();

  constructor(classOf: ClassOf, isExact: boolean) {
    this.#classOf = classOf;
    this.#isExact = isExact;
  }

  plan(): LabelPlan {
    return { changes: this.changes, told: this.told, isExact: this.#isExact };
  }

  note(site: StateSite, answer: CaseClass | undefined, label: string): void {
    if (answer === undefined) return;
    const own = this.told.get(site) ?? new Map<CaseClass, Set<string>>();
    this.told.set(site, own);
    const labels = own.get(answer) ?? new Set();
    own.set(answer, labels);
    labels.add(label);
  }

  /** The label after a write; what its case finds and leaves is noted. */
  after(event: Heard, before: string, versions: Versions, key: string): string {
    const found = this.#classOf(event);
    if (found === null) return before;
    const label = this.#isExact ? this.#nameAnew(found.label) : this.#nameFor(found.answer, found.label, versions);
    const change: OwnChange = this.changes.get(found.answer) ?? {
      labels: new Map(),
      example: { heard: event, key },
      moves: new Map(),
    };
    this.changes.set(found.answer, change);
    if (!change.labels.has(before)) change.labels.set(before, label);
    change.moves.set(event, { before, after: label });
    return label;
  }

  #nameFor(answer: CaseClass, base: string, versions: Versions): string {
    const known = this.#known.get(answer) ?? [];
    this.#known.set(answer, known);
    let same = known.find((item) => agree(item.versions, versions));
    if (same === undefined) {
      same = { label: this.#nameAnew(base), versions: new Map() };
      known.push(same);
    }
    for (const [site, version] of versions) same.versions.set(site, version);
    return same.label;
  }

  #nameAnew(base: string): string {
    const count = (this.#counts.get(base) ?? 0) + 1;
    this.#counts.set(base, count);
    const name = count === 1 ? base : `${base} ${count}`;
    return name === START ? `${base} 1` : name;
  }
}

/** Whether the session, played with these labels, gives every site the answers it heard. */
function plays(labels: Labels, lines: readonly SiteLine[], writes: readonly Heard[], classOf: ClassOf): boolean {
  const reads = lines.flatMap(({ site }) =>
    site.planned.answers.flatMap((answer) =>
      answer.members.map((index) => ({ site, answer, position: site.members[index]?.heard.position ?? 0 })),
    ),
  );
  reads.sort((a, b) => a.position - b.position);
  let label = START;
  let at = 0;
  for (const { site, answer, position } of reads) {
    for (; at < writes.length && (writes[at]?.position ?? 0) < position; at++)
      label = move(labels, label, writes[at] as Heard, classOf);
    const told = labels.told.get(site);
    const given =
      [...(told ?? [])].find(([, own]) => own.has(label) && !own.has(START)) ??
      [...(told ?? [])].find(([, own]) => own.has(START));
    if (given?.[0] !== answer) return false;
  }
  return true;
}

function move(labels: Labels, label: string, write: Heard, classOf: ClassOf): string {
  const found = classOf(write);
  const change = found === null ? undefined : labels.changes.get(found.answer)?.labels;
  if (change === undefined) return label;
  return change.get(label) ?? [...change.values()].at(-1) ?? label;
}
