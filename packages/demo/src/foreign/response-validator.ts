import { Ajv2020 } from 'ajv/dist/2020.js';
import AjvDraft04 from 'ajv-draft-04';
import addFormats from 'ajv-formats';

type Json = Readonly<Record<string, unknown>>;
type Validate = (value: unknown) => string | null;

const OPTIONS = {
  strict: false,
  allErrors: false,
  logger: false,
  validateSchema: false,
  unicodeRegExp: false,
} as const;
const NO_SCHEMA: Validate = () => null;

/**
 * Holds answers against the schemas of a document of one file as they stand in it, without any of our own reading of
 * contracts: what it says is what a client made from the contract would say.
 */
export class ResponseValidator {
  readonly #document: Json;
  readonly #isNew: boolean;
  readonly #ajv: Ajv2020;
  readonly #known = new Map<string, Validate>();

  constructor(document: Json) {
    this.#document = prepare(document) as Json;
    this.#isNew = String(document['openapi'] ?? '').startsWith('3.1');
    const ajv = this.#isNew
      ? new Ajv2020(OPTIONS)
      : (new AjvDraft04.default({ ...OPTIONS, ignoreKeywordsWithRef: true } as never) as unknown as Ajv2020);
    addFormats.default(ajv);
    ajv.addSchema({ ...this.#document, [this.#isNew ? '$id' : 'id']: ID }, ID);
    this.#ajv = ajv;
  }

  /** What is wrong with an answer in JSON; null: nothing, or nothing is said of it. Fails where the schema is none. */
  validate(path: string, method: string, status: number, type: string, body: unknown): string | null {
    const pointer = this.#schemaAt(path, method.toLowerCase(), status, type);
    if (pointer === null) return null;
    const known = this.#known.get(pointer) ?? this.#compile(pointer);
    this.#known.set(pointer, known);
    return known(body);
  }

  #compile(pointer: string): Validate {
    const schema = this.#resolve(pointer)?.[1] as Json;
    if (schema['type'] === 'file') return NO_SCHEMA;
    const validate = this.#ajv.compile({ $ref: `${ID}#${encodeURI(pointer)}` });
    return (value) => (validate(value) ? null : this.#ajv.errorsText(validate.errors));
  }

  #schemaAt(path: string, method: string, status: number, type: string): string | null {
    const codes = [String(status), `${Math.floor(status / 100)}XX`, `${Math.floor(status / 100)}xx`, 'default'];
    for (const code of codes) {
      const response = this.#walk('', ['paths', path, method, 'responses', code]);
      if (response === null) continue;
      const [at, value] = response;
      if ((value as Json)['schema'] !== undefined) return `${at}/schema`;
      const media = ((value as Json)['content'] ?? {}) as Json;
      const own = Object.keys(media).find((name) => name.split(';')[0]?.trim() === type);
      return own === undefined || (media[own] as Json)['schema'] === undefined
        ? null
        : `${at}/content/${encodeKey(own)}/schema`;
    }
    return null;
  }

  /** A value below a pointer, references on the way followed: where it really stands, and what it is. */
  #walk(from: string, keys: readonly string[]): readonly [string, unknown] | null {
    let here = this.#resolve(from);
    for (const key of keys) {
      if (here === null) return null;
      const [at, value] = here;
      here = (value as Json | null)?.[key] === undefined ? null : this.#resolve(`${at}/${encodeKey(key)}`);
    }
    return here;
  }

  #resolve(pointer: string): readonly [string, unknown] | null {
    let at = pointer;
    for (let hop = 0; hop < MOST_HOPS; hop++) {
      const value = at
        .split('/')
        .slice(1)
        .reduce<unknown>((here, key) => (here as Json | undefined)?.[decodeKey(key)], this.#document);
      const ref = (value as Json | undefined)?.['$ref'];
      if (value === undefined) return null;
      if (typeof ref !== 'string' || !ref.startsWith('#')) return [at, value];
      at = decodeURIComponent(ref.slice(1));
    }
    return null;
  }
}

const ID = 'https://foreign.example/document';
const MOST_HOPS = 50;

function encodeKey(key: string): string {
  return key.replaceAll('~', '~0').replaceAll('/', '~1');
}

function decodeKey(key: string): string {
  return key.replaceAll('~1', '/').replaceAll('~0', '~');
}

/** Keys whose members have names of their own: `example` is a key of a schema, but a member of `properties`. */
const NAMED = new Set(['properties', 'patternProperties', 'definitions', 'schemas', '$defs', 'paths', 'content']);
/** Values that are no schemas: an `id` in them names nothing. */
const GIVEN = new Set(['example', 'examples', 'default', 'x-example', 'x-examples']);

/** What OpenAPI means and JSON Schema does not know: members that only callers send are not required of answers; `nullable` asks for a type. */
function prepare(value: unknown, isNamed = false): unknown {
  if (Array.isArray(value)) return value.map((item) => prepare(item));
  if (value === null || typeof value !== 'object') return value;
  const own = Object.fromEntries(
    Object.entries(value)
      .filter(([key]) => isNamed || !GIVEN.has(key))
      .map(([key, item]) => [key, key === 'enum' ? item : prepare(item, !isNamed && NAMED.has(key))]),
  );
  if (isNamed) return own;
  const { properties, required, nullable, type, enum: list } = own as Json;
  if (Array.isArray(required) && properties !== null && typeof properties === 'object')
    own['required'] = required.filter(
      (name) => ((properties as Json)[name] as Json | undefined)?.['writeOnly'] !== true,
    );
  if (Array.isArray(own['required']) && own['required'].length === 0) delete own['required'];
  if (nullable !== undefined && typeof type !== 'string') delete own['nullable'];
  if (nullable === true && Array.isArray(list) && !list.includes(null)) own['enum'] = [...list, null];
  return own;
}
