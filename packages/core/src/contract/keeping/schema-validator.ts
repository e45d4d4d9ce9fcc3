import Ajv2020, { type ErrorObject, type ValidateFunction } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { findNearest } from '../../definition/nearest.js';
import type { Contract, ContractNode } from '../contract.js';
import type { Direction } from '../generate-value.js';
import { type BundledSchema, bundleSchema } from './bundle-schema.js';
import { createSchemaPattern } from './schema-pattern.js';

/** One way in which a value is not as a schema says. */
export interface SchemaFinding {
  /** Where in the value: `$.berths[0].quay`. */
  readonly at: string;
  readonly message: string;
  /** The rule, by its place in the contract. */
  readonly rule: string;
}

const NONE: readonly SchemaFinding[] = [];

interface Compiled {
  readonly validate: ValidateFunction;
  readonly bundled: BundledSchema;
}

/** Holds values against the schemas of a contract. Each schema is compiled when it is first asked for, with what it refers to. */
export class SchemaValidator {
  readonly #contract: Contract;
  readonly #ajv = createAjv();
  readonly #compiled = new Map<string, Compiled | null>();
  /** By keyword of a schema's map: looking up a line takes longer than the rest. */
  readonly #rules = new Map<object, Map<string, string>>();

  constructor(contract: Contract) {
    this.#contract = contract;
  }

  /** Empty when the value is as the schema says, or the schema is none. */
  validate(schema: ContractNode, value: unknown, direction: Direction): readonly SchemaFinding[] {
    return this.compile(schema, direction)(value);
  }

  /** As `validate`, for a schema that many values are held against. */
  compile(schema: ContractNode, direction: Direction): (value: unknown) => readonly SchemaFinding[] {
    const compiled = this.#compile(schema, direction);
    if (compiled === null) return () => NONE;
    return (value) => (compiled.validate(value) ? NONE : this.#describe(compiled, schema, value));
  }

  #describe(compiled: Compiled, schema: ContractNode, value: unknown): readonly SchemaFinding[] {
    const errors = withoutBranches(compiled.validate.errors ?? []);
    return errors.map((error) => ({
      at: pathOf(error.instancePath),
      message: describeError(error, value),
      rule: this.#describeRule(error, compiled.bundled, schema),
    }));
  }

  #compile(schema: ContractNode, direction: Direction): Compiled | null {
    const id = `${direction} ${schema.document.address}#${schema.path.join('/')}`;
    const known = this.#compiled.get(id);
    if (known !== undefined) return known;
    const bundled = bundleSchema(this.#contract, schema, direction);
    const validate = tryCompile(this.#ajv, bundled);
    const compiled = validate === null ? null : { validate, bundled };
    this.#compiled.set(id, compiled);
    return compiled;
  }

  /** The keyword, where it stands in the contract. */
  #describeRule({ parentSchema, keyword }: ErrorObject, { places }: BundledSchema, schema: ContractNode): string {
    const node = (typeof parentSchema === 'object' ? places.get(parentSchema) : undefined) ?? schema;
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
    allErrors: true,
    verbose: true,
    logger: false,
    validateFormats: true,
    code: { regExp: Object.assign(createSchemaPattern, { code: 'createSchemaPattern' }) as never },
  });
  addFormats.default(ajv);
  return ajv;
}

/** Null for a schema that is none: what a document errs in, answers are not blamed for. */
function tryCompile(ajv: Ajv2020.default, { schema }: BundledSchema): ValidateFunction | null {
  try {
    return ajv.compile(schema);
  } catch {
    return null;
  }
}

/** Where no branch of a choice holds, that is said once, and not what is wrong with each. */
function withoutBranches(errors: readonly ErrorObject[]): readonly ErrorObject[] {
  const choices = errors.filter(({ keyword }) => keyword === 'oneOf' || keyword === 'anyOf');
  const isInside = (error: ErrorObject): boolean =>
    choices.some(
      (choice) =>
        choice !== error &&
        error.instancePath.startsWith(choice.instancePath) &&
        (error.schemaPath.startsWith(`${choice.schemaPath}/`) ||
          !error.schemaPath.startsWith(choice.schemaPath.replace(/\/(oneOf|anyOf)$/, ''))),
    );
  return errors.filter((error) => !isInside(error));
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
