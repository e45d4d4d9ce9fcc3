import type { Ajv2020, ErrorObject, ValidateFunction } from 'ajv/dist/2020.js';
import type { JsonMap } from '../../definition/json-map.js';
import { findNearest } from '../../definition/nearest.js';
import type { Contract, ContractNode } from '../contract.js';
import type { Direction } from '../direction.js';
import { convertSchema } from './convert-schema.js';
import { createAjv, findSchemaMistake } from './create-ajv.js';
import { withoutBranches } from './failed-branches.js';

/** One way in which a value is not as a schema says. */
export interface SchemaFinding {
  /** Where in the value: `$.berths[0].quay`. */
  readonly at: string;
  readonly message: string;
  /** The rule, by its place in the contract. */
  readonly rule: string;
}

/** A part of a contract that cannot be used: nothing is held against it. */
export interface LostPart {
  /** Where it stands. */
  readonly at: string;
  readonly reason: string;
}

const NONE: readonly SchemaFinding[] = [];
/** In the place of what is no schema: it says nothing. */
const ANYTHING = Object.assign(() => true, { errors: null, evaluated: {} });

type Validate = Pick<ValidateFunction, 'errors'> & ((value: unknown) => unknown);

/** A schema that is compiled when it is first needed. */
interface KnownSchema {
  readonly node: ContractNode;
  readonly direction: Direction;
  /** Null until it is compiled. */
  schema: JsonMap | null;
  validate: Validate | null;
}

/**
 * Holds values against the schemas of a contract. Each schema is compiled once, when a value first gets to it: operations
 * whose schemas lead to one another share them, and what no value reaches costs nothing.
 */
export class SchemaValidator {
  /** Parts of schemas that are none, as far as schemas were asked for. */
  readonly lost: LostPart[] = [];
  readonly #contract: Contract;
  readonly #ajv: Ajv2020;
  /** By id: direction and place. What an answer has to have is not what a call has to have. */
  readonly #known = new Map<string, KnownSchema>();
  /** The node that each map of a converted schema was made of. */
  readonly #places = new WeakMap<object, ContractNode>();
  /** By keyword of a schema's map: looking up a line takes longer than the rest. */
  readonly #rules = new Map<object, Map<string, string>>();

  constructor(contract: Contract) {
    this.#contract = contract;
    this.#ajv = createAjv((id) => this.#open(id));
  }

  /** Empty when the value is as the schema says, or the schema is none. */
  validate(schema: ContractNode, value: unknown, direction: Direction): readonly SchemaFinding[] {
    return this.compile(schema, direction)(value);
  }

  /** As `validate`, for a schema that many values are held against. */
  compile(schema: ContractNode, direction: Direction): (value: unknown) => readonly SchemaFinding[] {
    const validate = this.#open(this.#idOf(schema, direction));
    return (value) => (validate(value) ? NONE : this.#describe(validate.errors ?? [], schema, value));
  }

  #describe(errors: readonly ErrorObject[], schema: ContractNode, value: unknown): readonly SchemaFinding[] {
    return withoutBranches(errors, (id) => this.#known.get(id)?.schema).map((error) => ({
      at: pathOf(error.instancePath),
      message: describeError(error, value),
      rule: this.#describeRule(error, schema),
    }));
  }

  #idOf(node: ContractNode, direction: Direction): string {
    const id = `${direction} ${node.document.address}#${node.path.join('/')}`;
    if (!this.#known.has(id)) this.#known.set(id, { node, direction, schema: null, validate: null });
    return id;
  }

  #open(id: string): Validate {
    const known = this.#known.get(id);
    if (known === undefined) return ANYTHING;
    known.validate ??= this.#compile(known);
    return known.validate;
  }

  /** What a document errs in, values are not blamed for. */
  #compile(known: KnownSchema): Validate {
    const { node, direction } = known;
    const schema = convertSchema(node, {
      contract: this.#contract,
      direction,
      idOf: (target) => this.#idOf(target, direction),
      places: this.#places,
      report: (part, reason) => this.#tellLost(part, reason),
    });
    known.schema = schema;
    const mistake = findSchemaMistake(schema);
    if (mistake !== null) {
      this.#tellLost(node, `it is no schema: ${mistake}`);
      return ANYTHING;
    }
    try {
      return this.#ajv.compile(schema);
    } catch (error) {
      this.#tellLost(node, (error as Error).message);
      return ANYTHING;
    }
  }

  #tellLost(node: ContractNode, reason: string): void {
    this.lost.push({ at: this.#contract.describe(node), reason });
  }

  /** The keyword, where it stands in the contract. */
  #describeRule({ parentSchema, keyword }: ErrorObject, schema: ContractNode): string {
    const node = (typeof parentSchema === 'object' ? this.#places.get(parentSchema) : undefined) ?? schema;
    const known = this.#rules.get(node) ?? new Map<string, string>();
    this.#rules.set(node, known);
    const rule =
      known.get(keyword) ??
      this.#contract.describe({ document: node.document, path: [...node.path, keyword], value: null });
    known.set(keyword, rule);
    return rule;
  }
}

/** `/berths/0/quay` -> `$.berths[0].quay` */
function pathOf(pointer: string): string {
  const keys = pointer
    .split('/')
    .slice(1)
    .map((key) => key.replaceAll('~1', '/').replaceAll('~0', '~'));
  return `$${keys.map((key) => (/^\d+$/.test(key) ? `[${key}]` : /^[A-Za-z_]\w*$/.test(key) ? `.${key}` : `['${key}']`)).join('')}`;
}

function describeError(error: ErrorObject, whole: unknown): string {
  const { params, data } = error as ErrorObject<string, Readonly<Record<string, unknown>>>;
  const shown = shorten(data ?? (error.instancePath === '' ? whole : data));
  switch (error.keyword) {
    case 'required':
      return `${JSON.stringify(params['missingProperty'])} is missing`;
    case 'additionalProperties':
    case 'unevaluatedProperties':
      return `${JSON.stringify(params['additionalProperty'] ?? params['unevaluatedProperty'])} is not in the contract`;
    case 'enum':
      return describeEnum(data, params['allowedValues'] as readonly unknown[], shown);
    case 'const':
      return `${shown} is not ${shorten(params['allowedValue'])}`;
    case 'type':
      return `${shown} is not of the type ${String(params['type']).replaceAll(',', ' or ')}`;
    case 'format':
      return `${shown} is no ${String(params['format'])}`;
    case 'pattern':
      return `${shown} does not fit the pattern ${String(params['pattern'])}`;
    case 'oneOf':
      return params['passingSchemas'] === null
        ? `${shown} is none of what it may be`
        : `${shown} is more than one of what it may be`;
    case 'anyOf':
      return `${shown} is none of what it may be`;
    default:
      return `${shown} ${error.message ?? 'is not as the contract says'}`;
  }
}

const MOST_LISTED = 8;

function describeEnum(value: unknown, allowed: readonly unknown[], shown: string): string {
  const listed = allowed.slice(0, MOST_LISTED).map((item) => shorten(item));
  const more = allowed.length > MOST_LISTED ? ', ...' : '';
  const texts = allowed.filter((item) => typeof item === 'string');
  const nearest = typeof value === 'string' ? findNearest(value, texts) : null;
  return `${shown} is none of ${listed.join(', ')}${more}${nearest === null ? '' : `; did you mean "${nearest}"?`}`;
}

const LONGEST_SHOWN = 60;

function shorten(value: unknown): string {
  const text = JSON.stringify(value) ?? 'nothing';
  return text.length > LONGEST_SHOWN ? `${text.slice(0, LONGEST_SHOWN)}...` : text;
}
