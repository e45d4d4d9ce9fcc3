import Ajv2020 from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { describe, expect, test } from 'vitest';
import { generateValue } from '../src/contract/generate-value.js';
import { readOpenApi } from '../src/contract/openapi-document.js';

/** An independent validator: what it says is what a client generated from the contract would say. */
const ajv = new Ajv2020.default({ strict: false, allErrors: true });
addFormats.default(ajv);

/** Schemas under `components.schemas`; each is generated from, and held against itself. */
const SCHEMAS: Readonly<Record<string, object>> = {
  limits: {
    type: 'object',
    required: ['n', 'm', 'k', 'text'],
    properties: {
      n: { type: 'integer', minimum: 7, maximum: 9 },
      m: { type: 'number', exclusiveMinimum: 0, exclusiveMaximum: 5 },
      k: { type: 'integer', multipleOf: 6, minimum: 13 },
      text: { type: 'string', minLength: 20, maxLength: 22 },
    },
  },
  formats: {
    type: 'object',
    required: ['at', 'day', 'id', 'mail', 'link', 'host', 'four', 'six'],
    properties: {
      at: { type: 'string', format: 'date-time' },
      day: { type: 'string', format: 'date' },
      id: { type: 'string', format: 'uuid' },
      mail: { type: 'string', format: 'email' },
      link: { type: 'string', format: 'uri' },
      host: { type: 'string', format: 'hostname' },
      four: { type: 'string', format: 'ipv4' },
      six: { type: 'string', format: 'ipv6' },
    },
  },
  patterns: { type: 'array', minItems: 4, items: { type: 'string', pattern: '^[A-Z]{2}-\\d{3,5}(x|y)?$' } },
  list: { type: 'array', minItems: 3, maxItems: 3, items: { type: 'boolean' } },
  choices: {
    type: 'object',
    required: ['kind', 'one', 'any'],
    properties: {
      kind: { enum: ['tug', 'pilot'] },
      one: { oneOf: [{ type: 'null' }, { type: 'integer', minimum: 3 }] },
      any: { anyOf: [{ type: 'string' }, { type: 'number' }] },
    },
  },
  constants: {
    type: 'object',
    required: ['version', 'given', 'shown'],
    properties: {
      version: { const: 3 },
      given: { type: 'string', default: 'north' },
      shown: { type: 'string', examples: ['Petrel'] },
    },
  },
  nullable: { type: 'object', required: ['name'], properties: { name: { type: ['null', 'string'] } } },
  joined: {
    allOf: [
      { $ref: '#/components/schemas/limits' },
      { type: 'object', required: ['extra'], properties: { extra: { type: 'boolean' } } },
    ],
  },
  tree: {
    type: 'object',
    required: ['name', 'branches'],
    properties: {
      name: { type: 'string' },
      branches: { type: 'array', items: { $ref: '#/components/schemas/tree' } },
      parent: { $ref: '#/components/schemas/tree' },
    },
  },
  mutual: {
    type: 'object',
    required: ['other'],
    properties: { other: { type: 'object', properties: { back: { $ref: '#/components/schemas/mutual' } } } },
  },
  untyped: { properties: { depth: { minimum: 2, type: 'number' } }, required: ['depth'] },
  negative: { type: 'integer', maximum: -5 },
};

const document = readOpenApi(
  JSON.stringify({ openapi: '3.1.0', info: { title: 'T', version: '1' }, paths: {}, components: { schemas: SCHEMAS } }),
);

describe('a generated value is valid against its schema, by an independent validator', () => {
  test.each(Object.keys(SCHEMAS))('%s', (name) => {
    const validate = ajv.compile({ $ref: `#/components/schemas/${name}`, components: { schemas: SCHEMAS } });
    for (let place = 0; place < 25; place++) {
      const value = generateValue(document, { $ref: `#/components/schemas/${name}` }, `place ${place}`);
      expect(validate(value), `${JSON.stringify(value)} ${JSON.stringify(validate.errors)}`).toBe(true);
    }
  });

  test('write-only members are left out, and the same place gives the same value', () => {
    const schema = {
      type: 'object',
      properties: { name: { type: 'string' }, password: { type: 'string', writeOnly: true } },
    };
    const value = generateValue(document, schema, 'here');
    expect(value).toEqual({ name: 'name' });
    expect(generateValue(document, SCHEMAS['patterns'], 'a')).toEqual(
      generateValue(document, SCHEMAS['patterns'], 'a'),
    );
    expect(generateValue(document, SCHEMAS['patterns'], 'a')).not.toEqual(
      generateValue(document, SCHEMAS['patterns'], 'b'),
    );
  });
});

describe('references', () => {
  test.each([
    ['#/components/schemas/negative', 'integer'],
    ['#/components/schemas/nowhere', undefined],
    ['other.yaml#/x', undefined],
  ])('%s leads to %s', (ref, type) => {
    expect((document.resolve({ $ref: ref }) as { type?: string } | null)?.type).toBe(type);
  });

  test('a reference to itself ends', () => {
    const circle = readOpenApi('openapi: 3.0.0\nx: { $ref: "#/x" }\n');
    expect(circle.resolve({ $ref: '#/x' })).toBeNull();
  });

  test('escaped pointers are read (RFC 6901)', () => {
    const escaped = readOpenApi('openapi: 3.0.0\n"a/b": { "c~d": 5 }\n');
    expect(escaped.resolve({ $ref: '#/a~1b/c~0d' })).toBe(5);
  });
});
