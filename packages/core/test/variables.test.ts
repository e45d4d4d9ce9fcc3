import { describe, expect, test } from 'vitest';
import { type BesideFiles, listBeside, listVariables, loadService } from '../src/index.js';
import { answerJson } from './support.js';

const FILE = `upsetter: 1
service: desk
upstream: "\${vars.real}/api"
variables: { quay: North, limit: 5, real: "http://127.0.0.1:4691", key: null }
lane: "\${vars.quay}-\${call.query.lane}"
operations:
  readQuay:
    on: GET /quay
    cases:
      - case: q
        when: { query n: "\${string(vars.limit)}" }
        answer: { json: { quay: "\${vars.quay}", limit: "\${vars.limit}", key: "\${vars.key}" } }
upsets: [{ upset: closed, calm: true, answer: { status: 503, json: "\${vars.quay}" } }]
`;
const environments = (use: string): BesideFiles => ({
  './environments.yaml': {
    kind: 'text',
    content: `${use}environments: { staging: { quay: South, key: s-1, other: 1 }, bare: {} }\n`,
  },
});
const load = (files: BesideFiles, text = FILE) => {
  const loaded = loadService(text, files);
  return loaded.kind === 'loaded' ? loaded.service : loaded.problems.map(({ line, message }) => `${line}: ${message}`);
};

describe('variables', () => {
  const service = load(environments('use: staging\n'));

  test('are those of the environment in use, else those of the file, with their types', () => {
    if (Array.isArray(service)) throw new Error(service.join());
    expect(answerJson(service as never, 'GET /quay?n=5')).toEqual({ quay: 'South', limit: 5, key: 's-1' });
    expect((service as { definition: { upstream?: string } }).definition.upstream).toBe('http://127.0.0.1:4691/api');
  });

  test('are listed with where they are from', () => {
    expect(
      listVariables(FILE, environments('use: staging\n')).map(({ name, value, environment }) => [
        name,
        value,
        environment,
      ]),
    ).toEqual([
      ['quay', 'South', 'staging'],
      ['limit', 5, null],
      ['real', 'http://127.0.0.1:4691', null],
      ['key', 's-1', 'staging'],
    ]);
  });

  test('the environments stand beside a file that has variables, and only such a one', () => {
    expect(listBeside(FILE)).toEqual(['./environments.yaml']);
    expect(listBeside('upsetter: 1\nservice: a\noperations: {}')).toEqual([]);
    expect(listBeside('{"upsetter":1,"variables":{"a":1}}')).toEqual(['./environments.yaml']);
  });

  test.each([
    [
      {},
      [
        '4: the variable `key` has no value: give it one here, or in an environment (environments.yaml beside it, --env NAME)',
      ],
    ],
    [environments('use: bare\n'), ['4: the variable `key` has no value: give it one here, or in the environment bare']],
    [
      environments('use: stagin\n'),
      ['4: there is no environment `stagin` in environments.yaml; did you mean `staging`?'],
    ],
    [
      environments('used: x\n'),
      [expect.stringContaining('environments.yaml: environments.yaml has no key `used`; did you mean `use`?')],
    ],
    [
      { './environments.yaml': { kind: 'text', content: 'a: [' } } as BesideFiles,
      [expect.stringContaining('4: environments.yaml')],
    ],
  ])('what is missing is told: %#', (files, expected) => expect(load(files)).toEqual(expected));

  test('a name that is none is told, with the nearest', () => {
    expect(load(environments('use: staging\n'), FILE.replace('vars.limit}"', 'vars.limits}"'))).toContainEqual(
      expect.stringContaining('there is no variable `limits`; did you mean `limit`?'),
    );
  });
});
