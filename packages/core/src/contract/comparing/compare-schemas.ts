import type { Contract, ContractNode } from '../contract.js';
import { type FlatSchema, flattenSchema } from '../flat-schema.js';

/** A schema of one version and that of the other; null: it says nothing there. */
export interface SchemaPair {
  readonly before: { readonly contract: Contract; readonly node: ContractNode };
  readonly now: { readonly contract: Contract; readonly node: ContractNode };
}

export interface SchemaChange {
  /** Below the schema: `$.vessel.imo`. */
  readonly at: string;
  readonly message: string;
  readonly breaks: boolean;
}

/** Who sends the value: callers may rely on what they are sent, and on what they may send. */
type Sender = 'caller' | 'service';

const DEEPEST = 12;

/** How a value may be another than before. Circles end where they return. */
export function compareSchemas(pair: SchemaPair, sender: Sender): SchemaChange[] {
  return new SchemaComparison(sender).compare(pair, '$', 0);
}

class SchemaComparison {
  readonly #sender: Sender;
  readonly #seen = new Set<string>();

  constructor(sender: Sender) {
    this.#sender = sender;
  }

  compare({ before, now }: SchemaPair, at: string, depth: number): SchemaChange[] {
    const key = `${idOf(before.contract, before.node)} ${idOf(now.contract, now.node)}`;
    if (this.#seen.has(key) || depth > DEEPEST) return [];
    this.#seen.add(key);
    const [old, own] = [flat(before), flat(now)];
    return [
      ...this.#compareTypes(old, own, at),
      ...this.#compareLists(old, own, at),
      ...this.#compareLimits(old, own, at),
      ...this.#compareMembers(before.contract, old, now.contract, own, at, depth),
      ...this.#compareItems(before.contract, old, now.contract, own, at, depth),
    ];
  }

  #compareTypes({ types: old }: FlatSchema, { types: now }: FlatSchema, at: string): SchemaChange[] {
    if (old === null && now === null) return [];
    const [before, after] = [namesOf(old), namesOf(now)];
    if (before === after) return [];
    // Who sends may send less; who receives may be sent less.
    const isWider = now === null || (old !== null && [...old].every((type) => hasType(now, type)));
    const isNarrower = old === null || (now !== null && [...now].every((type) => hasType(old, type)));
    const breaks = this.#sender === 'caller' ? !isWider : !isNarrower;
    return [{ at, message: `is ${after}, was ${before}`, breaks }];
  }

  #compareLists({ enum: old }: FlatSchema, { enum: now }: FlatSchema, at: string): SchemaChange[] {
    if (old === null && now === null) return [];
    const [before, after] = [textsOf(old), textsOf(now)];
    if (before === null || after === null) {
      const message = after === null ? 'may be any value, was one of a list' : `has to be one of ${after.join(', ')}`;
      return [{ at, message, breaks: after !== null ? this.#sender === 'caller' : false }];
    }
    const gone = before.filter((value) => !after.includes(value));
    const added = after.filter((value) => !before.includes(value));
    return [
      ...(gone.length > 0 ? [{ at, message: `can no longer be ${gone.join(', ')}`, breaks: true }] : []),
      ...(added.length > 0 ? [{ at, message: `can be ${added.join(', ')}, too`, breaks: false }] : []),
    ];
  }

  #compareLimits({ limits: old, patterns: oldPatterns }: FlatSchema, own: FlatSchema, at: string): SchemaChange[] {
    const changes: SchemaChange[] = [];
    const { limits: now, patterns } = own;
    for (const name of new Set([...Object.keys(old), ...Object.keys(now)]) as Set<keyof typeof now>) {
      if (old[name] === now[name]) continue;
      const message = `${name} is ${now[name] ?? 'not limited'}, was ${old[name] ?? 'not limited'}`;
      changes.push({ at, message, breaks: this.#sender === 'caller' && isTighter(name, old[name], now[name]) });
    }
    if (oldPatterns.join() !== patterns.join() && patterns.length > 0)
      changes.push({ at, message: `has to fit ${patterns.join(' and ')}`, breaks: this.#sender === 'caller' });
    return changes;
  }

  #compareMembers(
    beforeContract: Contract,
    old: FlatSchema,
    nowContract: Contract,
    now: FlatSchema,
    at: string,
    depth: number,
  ): SchemaChange[] {
    const names = new Set([...old.properties.keys(), ...now.properties.keys()]);
    return [...names].flatMap((name): SchemaChange[] => {
      const own = `${at}.${name}`;
      const [node] = old.properties.get(name) ?? [];
      const [nowNode] = now.properties.get(name) ?? [];
      if (nowNode === undefined) return [this.#gone(own, old.required.has(name))];
      if (node === undefined) return [this.#added(own, now.required.has(name))];
      const pair = {
        before: { contract: beforeContract, node },
        now: { contract: nowContract, node: nowNode },
      };
      return [
        ...this.#compareNeed(own, old.required.has(name), now.required.has(name)),
        ...this.compare(pair, own, depth + 1),
      ];
    });
  }

  #gone(at: string, wasRequired: boolean): SchemaChange {
    const message = wasRequired ? 'is gone; it was required' : 'is gone';
    return { at, message, breaks: this.#sender === 'service' && wasRequired };
  }

  #added(at: string, isRequired: boolean): SchemaChange {
    return {
      at,
      message: isRequired ? 'is new, and required' : 'is new',
      breaks: this.#sender === 'caller' && isRequired,
    };
  }

  #compareNeed(at: string, was: boolean, is: boolean): SchemaChange[] {
    if (was === is) return [];
    const breaks = this.#sender === 'caller' ? is : was;
    return [{ at, message: is ? 'is required now' : 'is no longer required', breaks }];
  }

  #compareItems(
    beforeContract: Contract,
    { items: old }: FlatSchema,
    nowContract: Contract,
    { items: now }: FlatSchema,
    at: string,
    depth: number,
  ): SchemaChange[] {
    const [before, after] = [old[0], now[0]];
    if (before === undefined || after === undefined) return [];
    const pair = { before: { contract: beforeContract, node: before }, now: { contract: nowContract, node: after } };
    return this.compare(pair, `${at}[]`, depth + 1);
  }
}

function flat({ contract, node }: SchemaPair['before']): FlatSchema {
  return flattenSchema(contract, [node], (branches) => branches[0] as ContractNode);
}

function idOf(contract: Contract, node: ContractNode): string {
  const target = contract.resolve(node) ?? node;
  return `${target.document.address}#${target.path.join('/')}`;
}

function namesOf(types: ReadonlySet<string> | null): string {
  if (types === null) return 'any type';
  return [...types]
    .filter((type) => type !== 'integer' || !types.has('number'))
    .sort()
    .join(' or ');
}

function hasType(types: ReadonlySet<string>, type: string): boolean {
  return types.has(type) || (type === 'integer' && types.has('number'));
}

function textsOf(list: readonly unknown[] | null): string[] | null {
  return list === null ? null : list.map((value) => (typeof value === 'string' ? value : JSON.stringify(value)));
}

function isTighter(name: string, before: number | undefined, now: number | undefined): boolean {
  if (now === undefined) return false;
  if (before === undefined) return true;
  return /^(min|above)/.test(name) ? now > before : /^(max|below)/.test(name) ? now < before : true;
}
