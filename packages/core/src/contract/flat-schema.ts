import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import { type Contract, type ContractNode, childOf, refOf, withValue } from './contract.js';

/** A schema with what it is made of put together: references followed, `allOf` joined, one branch of each choice taken. */
export interface FlatSchema {
  /** The types it may have; null: any. `null` is among them where a value may be null. */
  readonly types: ReadonlySet<string> | null;
  readonly enum: readonly unknown[] | null;
  /** What the document itself gives for a value: `example`, `examples`, `default`, in this order. */
  readonly given: readonly unknown[];
  readonly format: string | null;
  readonly patterns: readonly string[];
  readonly limits: Limits;
  readonly properties: ReadonlyMap<string, readonly ContractNode[]>;
  readonly required: ReadonlySet<string>;
  /** Schemas of members that are not named; null: there may be none. */
  readonly additional: readonly ContractNode[] | null;
  readonly byPattern: readonly (readonly [pattern: string, schema: ContractNode])[];
  readonly items: readonly ContractNode[];
  readonly firstItems: readonly ContractNode[];
  readonly isUnique: boolean;
  readonly isReadOnly: boolean;
  readonly isWriteOnly: boolean;
  readonly words: string;
  /** The references that were followed to get here, by which circles are seen. */
  readonly refs: readonly string[];
}

/** Numbers inclusive unless said otherwise; undefined: no limit. */
export interface Limits {
  readonly minimum?: number;
  readonly maximum?: number;
  readonly above?: number;
  readonly below?: number;
  readonly multipleOf?: number;
  readonly minLength?: number;
  readonly maxLength?: number;
  readonly minItems?: number;
  readonly maxItems?: number;
  readonly minProperties?: number;
  readonly maxProperties?: number;
}

/** Which branch of a choice is taken: by its number among those that are open. */
export type ChooseBranch = (branches: readonly ContractNode[]) => ContractNode;

export function flattenSchema(contract: Contract, nodes: readonly ContractNode[], choose: ChooseBranch): FlatSchema {
  const flattener = new Flattener(contract, choose);
  for (const node of nodes) flattener.add(node);
  return flattener.result();
}

/** A schema as its first branches have it. */
export function flattenFirst(contract: Contract, schema: ContractNode): FlatSchema {
  return flattenOnce(contract, schema, (branches) => branches[0] as ContractNode);
}

/** What schemas without a choice came to: answers of large contracts are made of the same ones again and again. */
interface KnownSchemas {
  readonly byValue: WeakMap<object, FlatSchema>;
  /** Of maps that are nothing but a reference, by where it leads. */
  readonly byRef: Map<string, FlatSchema>;
}
const known = new WeakMap<Contract, KnownSchemas>();

/** `flattenSchema` of one schema, remembered where no choice is open. */
export function flattenOnce(contract: Contract, schema: ContractNode, choose: ChooseBranch): FlatSchema {
  const { value, document } = schema;
  if (!isJsonMap(value)) return flattenSchema(contract, [schema], choose);
  const { byValue, byRef } = known.get(contract) ?? { byValue: new WeakMap(), byRef: new Map() };
  known.set(contract, { byValue, byRef });
  const ref = Object.keys(value).length === 1 ? refOf(value) : null;
  const place = ref === null ? null : `${document.address} ${ref}`;
  const before = place === null ? byValue.get(value) : byRef.get(place);
  if (before !== undefined) return before;
  let isChosen = false;
  const flat = flattenSchema(contract, [schema], (branches) => {
    isChosen = true;
    return choose(branches);
  });
  if (isChosen) return flat;
  if (place === null) byValue.set(value, flat);
  else byRef.set(place, flat);
  return flat;
}

/** By which the same schema is known wherever it is referred to. */
export function placeOfSchema(contract: Contract, schema: ContractNode): string {
  const { document, path } = contract.resolve(schema) ?? schema;
  return `${document.address}#${path.join('/')}`;
}

const LOWER: Readonly<Record<string, string>> = {
  minimum: 'minimum',
  exclusiveMinimum: 'above',
  minLength: 'minLength',
  minItems: 'minItems',
  minProperties: 'minProperties',
};
const UPPER: Readonly<Record<string, string>> = {
  maximum: 'maximum',
  exclusiveMaximum: 'below',
  maxLength: 'maxLength',
  maxItems: 'maxItems',
  maxProperties: 'maxProperties',
};

class Flattener {
  readonly #contract: Contract;
  readonly #choose: ChooseBranch;
  readonly #refs: string[] = [];
  #types: Set<string> | null = null;
  #enum: readonly unknown[] | null = null;
  readonly #given: unknown[][] = [[], [], []];
  #format: string | null = null;
  readonly #patterns: string[] = [];
  readonly #limits: Record<string, number> = {};
  readonly #properties = new Map<string, ContractNode[]>();
  readonly #required = new Set<string>();
  #additional: ContractNode[] | null = [];
  readonly #byPattern: (readonly [string, ContractNode])[] = [];
  readonly #items: ContractNode[] = [];
  #firstItems: readonly ContractNode[] = [];
  #isUnique = false;
  #isReadOnly = false;
  #isWriteOnly = false;
  #words = '';

  constructor(contract: Contract, choose: ChooseBranch) {
    this.#contract = contract;
    this.#choose = choose;
  }

  add(node: ContractNode): void {
    const ref = refOf(node.value);
    if (ref !== null) {
      const id = `${node.document.address} ${ref}`;
      if (this.#refs.includes(id)) return;
      this.#refs.push(id);
      const target = this.#contract.resolve(node);
      if (target !== null) this.add(target);
      // Beside a reference other keywords count since 3.1 only.
      if (this.#contract.dialect !== '3.1') return;
    }
    if (isJsonMap(node.value)) this.#addKeywords(node, node.value);
  }

  #addKeywords(node: ContractNode, value: JsonMap): void {
    this.#addTypes(value);
    this.#addGiven(value);
    this.#addLimits(value);
    this.#addMembers(node, value);
    if (typeof value['format'] === 'string') this.#format ??= value['format'];
    if (typeof value['pattern'] === 'string') this.#patterns.push(value['pattern']);
    this.#isUnique ||= value['uniqueItems'] === true;
    this.#isReadOnly ||= value['readOnly'] === true;
    this.#isWriteOnly ||= value['writeOnly'] === true;
    if (typeof value['description'] === 'string' && this.#words === '') this.#words = value['description'];
    for (const [, part] of this.#contract.children(childOf(node, 'allOf'))) this.add(part);
    for (const key of ['oneOf', 'anyOf']) {
      const branches = this.#contract.children(childOf(node, key)).map(([, branch]) => branch);
      if (branches.length === 0) continue;
      const branch = this.#choose(branches);
      this.add(branch);
      this.#addDiscriminator(node, branch);
    }
  }

  #addTypes(value: JsonMap): void {
    const { type } = value;
    const said = typeof type === 'string' ? [type] : Array.isArray(type) ? type.map(String) : null;
    if (said !== null && !said.includes('file')) {
      const own = new Set(said);
      if (value['nullable'] === true || value['x-nullable'] === true) own.add('null');
      if (own.has('number')) own.add('integer');
      this.#types = this.#types === null ? own : new Set([...this.#types].filter((name) => own.has(name)));
    }
    const list = Object.hasOwn(value, 'const') ? [value['const']] : value['enum'];
    if (!Array.isArray(list)) return;
    const known = this.#enum;
    this.#enum = known === null ? list : known.filter((item) => list.some((other) => isEqual(item, other)));
  }

  #addGiven(value: JsonMap): void {
    const { example, examples } = value;
    if (example !== undefined) this.#given[0]?.push(example);
    if (Array.isArray(examples)) this.#given[1]?.push(...(examples as unknown[]));
    if (value['default'] !== undefined) this.#given[2]?.push(value['default']);
  }

  #addLimits(value: JsonMap): void {
    for (const [keyword, own] of Object.entries(value)) {
      if (typeof own !== 'number') continue;
      const low = LOWER[keyword];
      const high = UPPER[keyword];
      if (low !== undefined) this.#limits[low] = Math.max(this.#limits[low] ?? Number.NEGATIVE_INFINITY, own);
      if (high !== undefined) this.#limits[high] = Math.min(this.#limits[high] ?? Number.POSITIVE_INFINITY, own);
    }
    // Before 3.1 these say that the limit itself does not count.
    if (value['exclusiveMinimum'] === true && typeof value['minimum'] === 'number')
      this.#limits['above'] = value['minimum'];
    if (value['exclusiveMaximum'] === true && typeof value['maximum'] === 'number')
      this.#limits['below'] = value['maximum'];
    if (typeof value['multipleOf'] === 'number') this.#limits['multipleOf'] = value['multipleOf'];
  }

  #addMembers(node: ContractNode, value: JsonMap): void {
    for (const [name, member] of this.#contract.children(childOf(node, 'properties'))) {
      const known = this.#properties.get(name) ?? [];
      this.#properties.set(name, [...known, member]);
    }
    if (Array.isArray(value['required'])) for (const name of value['required']) this.#required.add(String(name));
    const additional = childOf(node, 'additionalProperties') ?? childOf(node, 'unevaluatedProperties');
    if (additional?.value === false) this.#additional = null;
    else if (additional !== null && isJsonMap(additional.value) && this.#additional !== null)
      this.#additional.push(additional);
    this.#byPattern.push(...this.#contract.children(childOf(node, 'patternProperties')));
    const items = childOf(node, 'items');
    // A list of schemas in `items` is what `prefixItems` is since 2020-12.
    if (items !== null && Array.isArray(items.value))
      this.#firstItems = this.#contract.children(items).map(([, item]) => item);
    else if (items !== null && isJsonMap(items.value)) this.#items.push(items);
    const first = childOf(node, 'prefixItems');
    if (first !== null) this.#firstItems = this.#contract.children(first).map(([, item]) => item);
  }

  /** The member that says which branch it is has the branch's name, or the one that maps to it. */
  #addDiscriminator(node: ContractNode, branch: ContractNode): void {
    const discriminator = this.#contract.at(node, 'discriminator');
    const name =
      discriminator === null ? undefined : (childOf(discriminator, 'propertyName')?.value ?? discriminator.value);
    const ref = refOf(branch.value);
    if (typeof name !== 'string' || ref === null || discriminator === null) return;
    const mapped = this.#contract
      .children(childOf(discriminator, 'mapping'))
      .find(([, target]) => target.value === ref || ref.endsWith(`/${String(target.value)}`));
    const said = mapped?.[0] ?? ref.split('/').at(-1) ?? '';
    const known = this.#properties.get(name) ?? [];
    this.#properties.set(name, [...known, withValue(node, { enum: [said] })]);
  }

  result(): FlatSchema {
    return {
      types: this.#types,
      enum: this.#enum,
      given: this.#given.flat(),
      format: this.#format,
      patterns: this.#patterns,
      limits: this.#limits as Limits,
      properties: this.#properties,
      required: this.#required,
      additional: this.#additional,
      byPattern: this.#byPattern,
      items: this.#items,
      firstItems: this.#firstItems,
      isUnique: this.#isUnique,
      isReadOnly: this.#isReadOnly,
      isWriteOnly: this.#isWriteOnly,
      words: this.#words,
      refs: this.#refs,
    };
  }
}

function isEqual(a: unknown, b: unknown): boolean {
  return a === b || JSON.stringify(a) === JSON.stringify(b);
}
