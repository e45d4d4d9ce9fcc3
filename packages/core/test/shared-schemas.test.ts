import { describe, expect, test } from 'vitest';
import { SchemaValidator } from '../src/contract/keeping/schema-validator.js';
import { Contract } from '../src/index.js';

const document = (schemas: string) => `
openapi: 3.1.0
info: { title: Nets, version: "1" }
paths: {}
components:
  schemas:
${schemas.replaceAll(/^/gm, '    ')}
`;

function open(schemas: string) {
  const contract = new Contract(document(schemas));
  const validator = new SchemaValidator(contract);
  const at = (name: string) => contract.at(contract.root(), 'components', 'schemas', name) as never;
  const told = (name: string, value: unknown) =>
    validator.validate(at(name), value, 'response').map((finding) => `${finding.at} ${finding.message}`);
  return { told, validator };
}

describe('schemas of a contract that lead to one another', () => {
  test('may go in circles, from whichever one it is begun', () => {
    const { told, validator } = open(`
Net: { type: object, required: [mesh], properties: { mesh: { type: integer }, boat: { $ref: "#/components/schemas/Boat" } } }
Boat: { type: object, required: [name], properties: { name: { type: string }, nets: { type: array, items: { $ref: "#/components/schemas/Net" } } } }`);
    const net = { mesh: 4, boat: { name: 'Petrel', nets: [{ mesh: 'wide' }] } };
    expect(told('Net', net)).toEqual(['$.boat.nets[0].mesh "wide" is not of the type integer']);
    expect(told('Boat', { nets: [net] })).toEqual([
      '$ "name" is missing',
      '$.nets[0].boat.nets[0].mesh "wide" is not of the type integer',
    ]);
    expect(validator.lost).toEqual([]);
  });

  test('are told once where no branch of a choice holds, whether its branches stand there or are referred to', () => {
    const { told } = open(`
Catch: { type: object, required: [day], oneOf: [{ $ref: "#/components/schemas/Fish" }, { $ref: "#/components/schemas/Crab" }], properties: { day: { type: integer } } }
Fish: { type: object, required: [fish], properties: { fish: { $ref: "#/components/schemas/Long" } } }
Crab: { type: object, required: [crab, claws] }
Long: { type: object, title: long, description: x, minProperties: 1, maxProperties: 3, required: [name], properties: { name: { type: string, minLength: 1, maxLength: 9, pattern: "^[a-z]+$" } } }`);
    expect(told('Catch', { fish: { name: 5 }, day: 'one' })).toEqual([
      '$ {"fish":{"name":5},"day":"one"} is none of what it may be',
      '$.day "one" is not of the type integer',
    ]);
    expect(told('Catch', { fish: { name: 'cod' } })).toEqual(['$ "day" is missing']);
  });

  test('still hold where one of them is none: that one says nothing, and is told with its line', () => {
    const { told, validator } = open(`
Rope: { type: object, properties: { length: { type: integer }, knot: { $ref: "#/components/schemas/Knot" }, code: { type: string, pattern: "(" } } }
Knot: { type: 5, required: [name] }`);
    expect(told('Rope', { length: 'long', knot: {}, code: 'x' })).toEqual([
      '$.length "long" is not of the type integer',
    ]);
    expect(validator.lost).toEqual([
      { at: '#/components/schemas/Rope/properties/code/pattern (line 8)', reason: 'it is no regular expression' },
      {
        at: '#/components/schemas/Knot (line 9)',
        reason: 'it is no schema: type must be equal to one of the allowed values',
      },
    ]);
  });

  test('count what a schema they refer to has looked at (unevaluatedProperties)', () => {
    const { told } = open(`
Part: { type: object, properties: { no: { type: integer } } }
Whole: { allOf: [{ $ref: "#/components/schemas/Part" }], properties: { name: { type: string } }, unevaluatedProperties: false }
Ring: { $ref: "#/components/schemas/Whole" }`);
    expect(told('Ring', { no: 1, name: 'a' })).toEqual([]);
    expect(told('Ring', { no: 1, name: 'a', colour: 'red' })).toEqual(['$ "colour" is not in the contract']);
  });

  test('may have patterns that are none by the letter and clear all the same', () => {
    const { told, validator } = open('Mark: { type: string, pattern: "^[\\\\w-.]+$" }');
    expect([told('Mark', 'a-b.c'), told('Mark', 'a b')]).toEqual([[], [expect.stringContaining('pattern')]]);
    expect(validator.lost).toEqual([]);
  });
});
