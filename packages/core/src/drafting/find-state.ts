import type { CauseFinder } from './cause.js';
import type { CaseClass } from './classes.js';
import type { Heard } from './heard.js';
import { planLabels, type SiteLine, START } from './plan-labels.js';
import { type Phases, splitPhases } from './split-phases.js';
import { type StateSite, siteNoun, type TracedSite, traceSite } from './state-site.js';
import { uniqueName } from './unique-name.js';

/** What a write does to a state: from the label it finds there to the one it leaves. */
export interface StateChange {
  readonly variable: string;
  /** A write and the key it speaks of, to write the key as an expression; null: the state is not keyed. */
  readonly example: { readonly heard: Heard; readonly key: string } | null;
  /** Label before -> label after. */
  readonly labels: ReadonlyMap<string, string>;
  /** What each write of the session did. */
  readonly moves: ReadonlyMap<Heard, { readonly before: string; readonly after: string }>;
  /** Whether a label that is not among those before is left as it is; else the last entry holds for any. */
  readonly isExact: boolean;
}

/** How the cases of one site are told apart; `later`: what writes made of something that goes on by itself stands before it. */
export type SiteAnswer =
  | { readonly kind: 'phases'; readonly later: ToldAnswer; readonly first: ToldAnswer }
  | ToldAnswer;

export type ToldAnswer =
  | {
      readonly kind: 'state';
      readonly variable: string;
      readonly isKeyed: boolean;
      /** In order of the file; `labels` null: the answer at the start, which stands last, without a condition. */
      readonly cases: readonly { readonly answer: CaseClass; readonly labels: readonly string[] | null }[];
      readonly evidence: string;
    }
  | {
      readonly kind: 'time';
      readonly variable: string;
      readonly isKeyed: boolean;
      /** From the last to the first; `afterS` null: at once. */
      readonly cases: readonly { readonly answer: CaseClass; readonly afterS: number | null }[];
      readonly evidence: string;
    }
  | {
      readonly kind: 'turns';
      readonly runs: readonly { readonly answer: CaseClass; readonly count: number }[];
      readonly evidence: string;
    };

export interface FoundState {
  /** Starting values by name: a text, or an empty map for keyed ones. */
  readonly variables: ReadonlyMap<string, unknown>;
  readonly sites: ReadonlyMap<StateSite, SiteAnswer>;
  /** What the cases of writes set. */
  readonly changes: ReadonlyMap<CaseClass, readonly StateChange[]>;
  /** Variables that keep the moment of a write: those of the given cases. */
  readonly moments: ReadonlyMap<CaseClass, readonly StateChange[]>;
}

export interface StateOptions {
  readonly causes: CauseFinder;
  /** Names that are states already. */
  readonly taken: readonly string[];
  /** All writes of the session that went well, in order. */
  readonly writes: readonly Heard[];
  /** The class of the case that answered a write, and a word for it. */
  readonly classOf: (write: Heard) => { readonly answer: CaseClass; readonly label: string } | null;
}

/** Finds the states behind all places of a session where the same call was answered differently. */
export function findState(sites: readonly StateSite[], options: StateOptions): FoundState {
  return new StateBook(options).find(sites);
}

class StateBook {
  readonly #options: StateOptions;
  readonly #variables = new Map<string, unknown>();
  readonly #taken: Set<string>;
  readonly #sites = new Map<StateSite, SiteAnswer>();
  readonly #phases = new Map<StateSite, Phases>();
  readonly #changes = new Map<CaseClass, StateChange[]>();
  readonly #moments = new Map<CaseClass, StateChange[]>();

  constructor(options: StateOptions) {
    this.#options = options;
    this.#taken = new Set(options.taken);
  }

  find(sites: readonly StateSite[]): FoundState {
    const traced = sites.map((site) => this.#trace(site));
    const groups = new Map<string, TracedSite[]>();
    for (const site of traced) {
      if (site.mode === 'alone') {
        this.#sites.set(site.site, this.#resolveAlone(site));
        continue;
      }
      const id = site.mode === 'keyed' ? `keyed ${siteNoun(site)}` : `plain ${site.site.operation.name}`;
      groups.set(id, [...(groups.get(id) ?? []), site]);
    }
    for (const group of groups.values()) this.#resolveVariable(group);
    for (const [site, phases] of this.#phases) this.#joinPhases(site, phases);
    return { variables: this.#variables, sites: this.#sites, changes: this.#changes, moments: this.#moments };
  }

  /** What writes change of a site; what goes on by itself before that is kept for later. */
  #trace(site: StateSite): TracedSite {
    const traced = traceSite(site, this.#options.causes);
    const phases = splitPhases(traced, this.#options.causes);
    if (phases === null) return traced;
    this.#phases.set(site, phases);
    return phases.later;
  }

  #joinPhases(site: StateSite, { first, before }: Phases): void {
    const later = this.#sites.get(site);
    if (later?.kind !== 'state') return;
    const cases = later.cases.filter(({ answer }) => answer !== before);
    this.#sites.set(site, { kind: 'phases', later: { ...later, cases }, first: this.#resolveAlone(first) });
  }

  #declare(noun: string, start: unknown): string {
    const name = uniqueName(noun, this.#taken, '');
    this.#variables.set(name, start);
    return name;
  }

  /** One variable for all sites that the same writes change. */
  #resolveVariable(sites: readonly TracedSite[]): void {
    const [first] = sites;
    if (first === undefined) return;
    const isKeyed = first.mode === 'keyed';
    const variable = this.#declare(siteNoun(first), isKeyed ? {} : START);
    const byKey = new Map<string, SiteLine[]>();
    for (const { site, timelines } of sites) {
      for (const line of timelines) {
        const key = isKeyed ? line.key : '';
        const lines = byKey.get(key) ?? [];
        byKey.set(key, lines);
        lines.push({ site, runs: line.runs });
      }
    }
    const plan = planLabels(byKey, isKeyed ? null : this.#options.writes, this.#options.classOf);
    for (const [answer, found] of plan.changes)
      push(this.#changes, answer, {
        variable,
        example: isKeyed ? found.example : null,
        labels: found.labels,
        moves: found.moves,
        isExact: plan.isExact,
      });
    for (const { site } of sites)
      this.#sites.set(site, toSiteAnswer(variable, isKeyed, plan.told.get(site) ?? new Map(), site));
  }

  /** Something that goes on by itself: by the time since it was begun, else by turns. */
  #resolveAlone(site: TracedSite): ToldAnswer {
    const runs = site.timelines.map(({ runs }) => runs);
    const order = [...runs].sort((a, b) => b.length - a.length)[0] ?? [];
    const begins = site.timelines.map(({ key, runs: own }) =>
      this.#options.causes.lastBefore(own[0]?.first.position ?? 0, site.keyIndex === null ? null : key),
    );
    const times = begins.every((begin) => begin !== null)
      ? findTimes(
          order.map((run) => run.answer),
          runs,
          begins as Heard[],
        )
      : null;
    if (times === null) {
      const evidence = `${order.map((run) => run.count).join(', then ')}, with nothing in between`;
      return { kind: 'turns', runs: order.map(({ answer, count }) => ({ answer, count })), evidence };
    }
    const isKeyed = site.keyIndex !== null;
    const variable = this.#declare(`${siteNoun(site)}Since`, isKeyed ? {} : null);
    begins.forEach((begin, i) => {
      const answer = begin === null ? null : this.#options.classOf(begin);
      if (begin === null || answer === null) return;
      const example = isKeyed ? { heard: begin, key: site.timelines[i]?.key ?? '' } : null;
      const before = this.#moments.get(answer.answer) ?? [];
      if (!before.some((change) => change.variable === variable))
        push(this.#moments, answer.answer, { variable, example, labels: new Map(), moves: new Map(), isExact: false });
    });
    const cases = order.map(({ answer }, i) => ({ answer, afterS: i === 0 ? null : (times[i - 1] ?? 0) })).reverse();
    return {
      kind: 'time',
      variable,
      isKeyed,
      cases,
      evidence: `${times.map((seconds) => `${seconds} s`).join(', ')} after ${begins[0]?.exchange.method} ${begins[0]?.exchange.path}`,
    };
  }
}

const MS_PER_SECOND = 1000;

/** For each answer after the first: the seconds since the beginning that part it from the one before; null when no time parts them. */
function findTimes(
  order: readonly CaseClass[],
  lines: readonly (readonly { answer: CaseClass; first: Heard; last: Heard }[])[],
  begins: readonly Heard[],
): number[] | null {
  if (new Set(order).size !== order.length) return null;
  const times: number[] = [];
  for (let i = 1; i < order.length; i++) {
    const latest = Math.max(
      ...lines.flatMap((runs, at) =>
        runs.filter((run) => run.answer === order[i - 1]).map((run) => run.last.atMs - (begins[at]?.atMs ?? 0)),
      ),
    );
    const earliest = Math.min(
      ...lines.flatMap((runs, at) =>
        runs.filter((run) => run.answer === order[i]).map((run) => run.first.atMs - (begins[at]?.atMs ?? 0)),
      ),
    );
    if (!(latest < earliest)) return null;
    // In between, never on a moment that was heard: seconds since 1970 have no room for exact milliseconds.
    times.push((latest + earliest) / 2 / MS_PER_SECOND);
  }
  return times;
}

function toSiteAnswer(
  variable: string,
  isKeyed: boolean,
  told: ReadonlyMap<CaseClass, ReadonlySet<string>>,
  site: StateSite,
): ToldAnswer {
  const cases = [...told].map(([answer, labels]) => ({ answer, labels: labels.has(START) ? null : [...labels] }));
  const atStart = cases.filter(({ labels }) => labels === null);
  const later = cases.filter(({ labels }) => labels !== null);
  const writes = [...new Set(later.flatMap(({ labels }) => labels ?? []))].slice(0, 4).join(', ');
  const heard = site.planned.answers.reduce((sum, answer) => sum + answer.members.length, 0);
  return {
    kind: 'state',
    variable,
    isKeyed,
    cases: [...later, ...atStart],
    evidence: `${heard} calls, changed by ${writes}`,
  };
}

function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  map.set(key, [...(map.get(key) ?? []), value]);
}
