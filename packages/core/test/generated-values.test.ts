import Ajv2020 from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { describe, expect, test } from 'vitest';
import { Contract, type ContractNode, childOf } from '../src/contract/contract.js';
import { generateValue } from '../src/contract/generate-value.js';

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
  steps: { type: 'number', multipleOf: 0.25, exclusiveMinimum: 1, exclusiveMaximum: 2 },
  narrow: { type: 'number', exclusiveMinimum: 0, exclusiveMaximum: 0.5 },
  tuple: {
    type: 'array',
    prefixItems: [{ type: 'integer' }, { type: 'string' }],
    items: { type: 'boolean' },
    minItems: 3,
  },
  distinct: { type: 'array', uniqueItems: true, minItems: 3, items: { enum: ['n', 's', 'e'] } },
  numbered: { type: 'object', minProperties: 3, additionalProperties: { type: 'integer' } },
  closed: { type: 'object', properties: { a: { type: 'string' } }, required: ['a'], additionalProperties: false },
  patterned: {
    type: 'object',
    minProperties: 2,
    patternProperties: { '^x-[a-z]{3}$': { type: 'integer' } },
    additionalProperties: false,
  },
  few: { type: 'object', maxProperties: 1, required: ['b'], properties: { a: {}, b: { type: 'integer' } } },
  kinds: {
    oneOf: [{ $ref: '#/components/schemas/tug' }, { $ref: '#/components/schemas/barge' }],
    discriminator: { propertyName: 'kind', mapping: { t: '#/components/schemas/tug' } },
  },
  tug: { type: 'object', required: ['kind', 'pull'], properties: { kind: { const: 't' }, pull: { type: 'number' } } },
  barge: {
    type: 'object',
    required: ['kind', 'load'],
    properties: { kind: { const: 'barge' }, load: { type: 'number' } },
  },
  beside: { $ref: '#/components/schemas/word', minLength: 12 },
  word: { type: 'string', maxLength: 20 },
  both: {
    allOf: [
      { type: 'integer', minimum: 3 },
      { type: 'number', maximum: 4 },
    ],
  },
  shorter: { type: 'string', pattern: '^[a-z]+$', minLength: 12, maxLength: 14 },
  wrong: { type: 'integer', example: 'three', minimum: 3, maximum: 3 },
  times: {
    type: 'object',
    required: ['updatedAt', 'createdAt'],
    properties: {
      updatedAt: { type: 'string', format: 'date-time' },
      createdAt: { type: 'string', format: 'date-time' },
    },
  },
};

const contractOf = (openapi: string, schemas: object): Contract =>
  new Contract(JSON.stringify({ openapi, info: { title: 'T', version: '1' }, paths: {}, components: { schemas } }));
const contract = contractOf('3.1.0', SCHEMAS);
const schemaOf = (own: Contract, name: string): ContractNode =>
  childOf(own.at(own.root(), 'components', 'schemas') as ContractNode, name) as ContractNode;

describe('a generated value is valid against its schema, by an independent validator', () => {
  test.each(Object.keys(SCHEMAS))('%s', (name) => {
    const validate = ajv.compile({ $ref: `#/components/schemas/${name}`, components: { schemas: SCHEMAS } });
    for (let place = 0; place < 25; place++) {
      const value = generateValue(contract, schemaOf(contract, name), `place ${place}`);
      expect(validate(value), `${JSON.stringify(value)} ${JSON.stringify(validate.errors)}`).toBe(true);
    }
  });

  test('members that only the other side sends are left out, and the same place gives the same value', () => {
    const own = contractOf('3.1.0', {
      user: {
        type: 'object',
        properties: {
          nick: { type: 'string' },
          secret: { type: 'string', writeOnly: true },
          no: { type: 'integer', readOnly: true },
        },
      },
    });
    const keys = (direction: 'request' | 'response') =>
      Object.keys(generateValue(own, schemaOf(own, 'user'), 'here', direction) as object);
    expect(keys('response')).toEqual(['nick', 'no']);
    expect(keys('request')).toEqual(['nick', 'secret']);
    const draw = (place: string) => generateValue(contract, schemaOf(contract, 'patterns'), place);
    expect(draw('a')).toEqual(draw('a'));
    expect(draw('a')).not.toEqual(draw('b'));
  });

  test('what is created comes before what is updated', () => {
    const { createdAt, updatedAt } = generateValue(contract, schemaOf(contract, 'times'), 'x') as Record<
      string,
      string
    >;
    expect((createdAt ?? '') < (updatedAt ?? '')).toBe(true);
  });

  test('OpenAPI 3.0 and Swagger 2.0 keywords mean what they mean there', () => {
    const old = contractOf('3.0.3', {
      n: { type: 'integer', minimum: 3, exclusiveMinimum: true, maximum: 4 },
      choice: { oneOf: [{ type: 'string', nullable: true, enum: [null, 'a'] }] },
      sibling: { $ref: '#/components/schemas/n', minimum: 100 },
    });
    expect(generateValue(old, schemaOf(old, 'n'), 'x')).toBe(4);
    expect(generateValue(old, schemaOf(old, 'sibling'), 'x')).toBe(4);
    expect([null, 'a']).toContain(generateValue(old, schemaOf(old, 'choice'), 'x'));
  });
});

describe('references', () => {
  const refer = (text: string, ref: string, texts: ReadonlyMap<string, string> = new Map()) => {
    const own = new Contract(text, 'file:///contracts/main.yaml', texts);
    return own.resolve({ ...own.root(), value: { $ref: ref } });
  };

  test('lead through documents, to anchors, and back', () => {
    const texts = new Map([
      [
        'file:///contracts/parts/berth.yaml',
        'Berth: { $ref: "../main.yaml#/x/Length" }\nQuay: { $anchor: quay, type: string }\n',
      ],
    ]);
    const main = 'openapi: 3.1.0\nx: { Length: { type: integer } }\n';
    expect(refer(main, 'parts/berth.yaml#/Berth', texts)?.value).toEqual({ type: 'integer' });
    expect(refer(main, 'parts/berth.yaml#quay', texts)?.value).toMatchObject({ type: 'string' });
    expect(refer(main, 'parts/berth.yaml', texts)?.document.address).toBe('file:///contracts/parts/berth.yaml');
    expect(refer(main, 'parts/none.yaml#/Berth', texts)).toBeNull();
    expect(refer(main, '#/x/nowhere')).toBeNull();
  });

  test('a reference to itself ends', () => {
    expect(refer('openapi: 3.0.0\nx: { $ref: "#/x" }\n', '#/x')).toBeNull();
  });

  test('escaped pointers are read (RFC 6901), and those that go through a reference', () => {
    expect(refer('openapi: 3.0.0\n"a/b": { "c~d": 5 }\n', '#/a~1b/c~0d')?.value).toBe(5);
    expect(refer('openapi: 3.0.0\na: { $ref: "#/b" }\nb: { c: 7 }\n', '#/a/c')?.value).toBe(7);
  });

  test('are told with their line, in JSON as in YAML, and with their file where it is another one', () => {
    const yaml = new Contract('openapi: 3.0.0\npaths:\n  /a:\n    get: {}\n');
    expect(yaml.describe(yaml.at(yaml.root(), 'paths', '/a', 'get') as ContractNode)).toBe('#/paths/~1a/get (line 4)');
    const json = new Contract('{ "openapi": "3.0.0",\n "x": ["a, {b}", { "y\\"": [1,\n 2] }] }');
    expect(json.describe(json.at(json.root(), 'x', '1', 'y"', '1') as ContractNode)).toBe('#/x/1/y"/1 (line 3)');
    const texts = new Map([['file:///other.yaml', '\na: { b: 1 }\n']]);
    const two = new Contract('openapi: 3.0.0\nx: { $ref: "other.yaml#/a" }\n', 'file:///main.yaml', texts);
    expect(two.describe(two.at(two.root(), 'x') as ContractNode)).toBe('other.yaml#/a (line 2)');
  });
});
