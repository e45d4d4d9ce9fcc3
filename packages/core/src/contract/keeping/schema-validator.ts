import Ajv2020, { type ErrorObject, type ValidateFunction } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { findNearest } from '../../definition/nearest.js';
import type { Contract, ContractNode } from '../contract.js';
import type { Direction } from '../generate-value.js';
import { type ConvertedSchema, SchemaConverter } from './convert-schema.js';
import { withoutBranches } from './failed-branches.js';
import { createSchemaPattern } from './schema-pattern.js';

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

/**
 * Holds values against the schemas of a contract. Each schema is compiled once, when it is first asked for or referred
 * to: operations whose schemas lead to one another share them.
 */
export class SchemaValidator {
  /** Parts of schemas that are none, as far as schemas were asked for. */
  readonly lost: LostPart[] = [];
  readonly #contract: Contract;
  readonly #ajv = createAjv();
  readonly #schemas: SchemaConverter;
  readonly #compiled = new Map<string, ValidateFunction | null>();
  /** By keyword of a schema's map: looking up a line takes longer than the rest. */
  readonly #rules = new Map<object, Map<string, string>>();

  constructor(contract: Contract) {
    this.#contract = contract;
    this.#schemas = new SchemaConverter(contract);
  }

  /** Empty when the value is as the schema says, or the schema is none. */
  validate(schema: ContractNode, value: unknown, direction: Direction): readonly SchemaFinding[] {
    return this.compile(schema, direction)(value);
  }

  /** As `validate`, for a schema that many values are held against. */
  compile(schema: ContractNode, direction: Direction): (value: unknown) => readonly SchemaFinding[] {
    const validate = this.#compile(schema, direction);
    if (validate === null) return () => NONE;
    return (value) => (validate(value) ? NONE : this.#describe(validate.errors ?? [], schema, value));
  }

  #describe(errors: readonly ErrorObject[], schema: ContractNode, value: unknown): readonly SchemaFinding[] {
    const find = (id: string) => this.#ajv.schemas[id]?.schema;
    return withoutBranches(errors, find).map((error) => ({
      at: pathOf(error.instancePath),
      message: describeError(error, value),
      rule: this.#describeRule(error, schema),
    }));
  }

  #compile(schema: ContractNode, direction: Direction): ValidateFunction | null {
    const { id, made } = this.#schemas.convert(schema, direction, (node, reason) => this.#tellLost(node, reason));
    for (const own of made) this.#add(own);
    const known = this.#compiled.get(id);
    if (known !== undefined) return known;
    const validate = this.#tryCompile(id, schema);
    this.#compiled.set(id, validate);
    return validate;
  }

  /** What is no schema gives way to one that says nothing: what a document errs in, values are not blamed for. */
  #add({ node, schema }: ConvertedSchema): void {
    try {
      this.#ajv.addSchema(schema);
    } catch (error) {
      const [first = ''] = (error as Error).message.replace(/^schema is invalid: data\/?/, '').split(', data/');
      this.#tellLost(node, `it is no schema: ${first}`);
      this.#ajv.removeSchema(schema.$id).addSchema({ $id: schema.$id });
    }
  }

  #tryCompile(id: string, schema: ContractNode): ValidateFunction | null {
    try {
      return this.#ajv.getSchema(id) ?? null;
    } catch (error) {
      this.#tellLost(schema, (error as Error).message);
      return null;
    }
  }

  #tellLost(node: ContractNode, reason: string): void {
    this.lost.push({ at: this.#contract.describe(node), reason });
  }

  /** The keyword, where it stands in the contract. */
  #describeRule({ parentSchema, keyword }: ErrorObject, schema: ContractNode): string {
    const node = (typeof parentSchema === 'object' ? this.#schemas.places.get(parentSchema) : undefined) ?? schema;
    const known = this.#rules.get(node) ?? new Map<string, string>();
    this.#rules.set(node, known);
    const rule = known.get(keyword) ?? this.#contract.describe({ ...node, path: [...node.path, keyword] });
    known.set(keyword, rule);
    return rule;
  }
}

function createAjv(): Ajv2020.default {
  const ajv = new Ajv2020.default({
    strict: false,
    // Small schemas stand where they are used, larger ones are functions of their own.
    inlineRefs: 10,
    allErrors: true,
    verbose: true,
    logger: false,
    validateFormats: true,
    code: {
      // Made smaller, a function takes a third longer to compile and runs no faster.
      optimize: false,
      regExp: Object.assign(createSchemaPattern, { code: 'createSchemaPattern' }) as never,
    },
  });
  addFormats.default(ajv);
  return ajv;
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
