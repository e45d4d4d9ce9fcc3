import { describe, expect, test } from 'vitest';
import {
  completeService,
  draftContract,
  followContract,
  lexiconSchema,
  openContract,
  requireService,
} from '../src/index.js';
import { answerJson, load, mistakes } from './support.js';

const CONTRACT = `openapi: 3.1.0
info: { title: Mill, version: "1" }
paths:
  /sacks: { get: { operationId: listSacks, responses: { "200": { description: ok, content: { application/json: { schema: { $ref: "#/components/schemas/Sack" } } } } } } }
components:
  schemas:
    Sack:
      required: [corn, weight, code, farm]
      properties:
        corn: { type: string }
        farm_name: { type: string }
        weight: { type: integer, maximum: 50 }
        code: { type: string, pattern: "^S[0-9]$" }
        kind: { enum: [a, b] }
        shown: { type: string, example: as shown }
        farm: { $ref: "#/components/schemas/Farm" }
    Farm: { type: object, properties: { name: { type: string } } }
`;
const LEXICON = {
  corn: ['rye'],
  farmName: ['Hillside'],
  weight: [70, 12],
  code: ['wrong', 'S7'],
  kind: ['c'],
  shown: ['not shown'],
  name: ['anybody'],
  in: { Farm: { name: ['Brae'] } },
};

describe('the words of the team', () => {
  const { text } = draftContract(CONTRACT, { service: null, port: null, lexicon: lexiconSchema.parse(LEXICON) });

  test('are taken by the name of the field, by schema first, where they fit; what the contract gives goes before', () => {
    const service = requireService(text);
    expect(answerJson(service, 'GET /sacks')).toMatchObject({
      corn: 'rye',
      farm_name: 'Hillside',
      weight: 12,
      code: 'S7',
      kind: expect.stringMatching(/^[ab]$/),
      shown: 'as shown',
      farm: { name: 'Brae' },
    });
    expect(service.definition.lexicon).toEqual(LEXICON);
  });

  test('go on in what is completed, and in what follows a newer version', () => {
    const bare = `upsetter: 1\nservice: mill\nlexicon: { corn: [oats] }\noperations: {}\n`;
    expect(completeService({ text: bare, files: {} }, openContract(CONTRACT), null).text).toContain('corn: oats');
    const next = { name: './mill.yaml', files: { './mill.yaml': { kind: 'text' as const, content: CONTRACT } } };
    expect(followContract({ text: bare, files: {} }, next).text).toContain('corn: oats');
  });
});

describe('word()', () => {
  const file = (expression: string) => `upsetter: 1
service: mill
lexicon: { corn: [rye, oats, bere] }
operations: { a: { on: GET /a, cases: [{ case: a, answer: { json: "\${${expression}}" } }] } }
`;

  test('draws one of the words, the same every time', () => {
    const drawn = answerJson(load(file("word('corn')")), 'GET /a');
    expect(['rye', 'oats', 'bere']).toContain(drawn);
    expect(answerJson(load(file("word('corn')")), 'GET /a')).toBe(drawn);
    const many = answerJson(load(file("range(20).map(i, word('corn'))")), 'GET /a') as string[];
    expect(new Set(many).size).toBeGreaterThan(1);
  });

  test.each([
    ["word('corm')", /the lexicon has no `corm`; did you mean `corn`\?/],
    ["word('wheat')", /the lexicon has no `wheat`; it has corn/],
    ['word(call.query.x)', /that is written out/],
    ['word()', /that is written out/],
  ])('%s is refused', (expression, message) => expect(mistakes(file(expression)).join()).toMatch(message));

  test('needs a lexicon, of lists', () => {
    expect(mistakes(file("word('corn')").replace(/^lexicon.*\n/m, '')).join()).toMatch(/has no `lexicon`/);
    expect(mistakes(file('1').replace('[rye, oats, bere]', 'rye')).join()).toMatch(/a list of words is expected/);
  });
});
