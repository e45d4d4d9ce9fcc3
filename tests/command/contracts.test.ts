import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { interrupt, startCommand, upsetter } from '../support/command.js';

const MAIN = (ref: string) => `
openapi: 3.1.0
info: { title: Lamps, version: "1" }
servers: [{ url: https://harbour.example/v1 }]
paths:
  /lamps/{id}:
    get:
      operationId: readLamp
      tags: [lamps]
      responses: { "200": { description: ok, content: { application/json: { schema: { $ref: "${ref}" } } } } }
  /oil:
    get: { operationId: readOil, responses: { "200": { description: ok, content: { application/json: { example: { barrels: 3 } } } } } }
`;
const LAMP =
  'Lamp: { type: object, required: [id, colour], properties: { id: { type: string }, colour: { enum: [red, green] } } }\n';

let directory: string;
let server: Server;
let origin: string;
const served = new Map<string, string>();
const redirected = new Map<string, string>();
const file = (...parts: string[]) => join(directory, ...parts);

beforeAll(async () => {
  directory = await mkdtemp(join(tmpdir(), 'upsetter-contracts-'));
  await mkdir(file('parts'));
  await writeFile(file('lamps.yaml'), MAIN('parts/lamp.yaml#/Lamp'));
  await writeFile(file('parts/lamp.yaml'), LAMP);
  server = createServer((incoming, outgoing) => {
    const away = redirected.get(incoming.url ?? '');
    if (away !== undefined) {
      outgoing.writeHead(302, { location: away }).end();
      return;
    }
    const text = served.get(incoming.url ?? '');
    outgoing.writeHead(text === undefined ? 404 : 200).end(text ?? '');
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(async () => {
  server.close();
  await rm(directory, { recursive: true });
});

describe('upsetter draft openapi', () => {
  test('reads the files a contract refers to, and those alone that are chosen', async () => {
    const whole = await upsetter(['draft', 'openapi', file('lamps.yaml')]);
    expect(whole).toMatchObject({ code: 0 });
    expect(whole.out).toContain('on: GET /v1/lamps/{id}');
    expect(whole.out).toContain('colour: red');
    const chosen = await upsetter(['draft', 'openapi', file('lamps.yaml'), '--only', 'tag:lamps', '--no-base']);
    expect(chosen.out).toContain('on: GET /lamps/{id}');
    expect(chosen.out).not.toContain('/oil');
    expect(chosen.err).toContain('left out 1 of 2 operations');
  });

  test('reads a contract from a URL with what it refers to on its host', async () => {
    served.set('/api/lamps.yaml', MAIN('parts/lamp.yaml#/Lamp'));
    served.set('/api/parts/lamp.yaml', LAMP);
    const { out, code } = await upsetter(['draft', 'openapi', `${origin}/api/lamps.yaml`]);
    expect(code).toBe(0);
    expect(out).toContain('colour: red');
  });

  test('takes examples that stand in files of their own as they are, and takes them along', async () => {
    await mkdir(file('shown'), { recursive: true });
    await writeFile(file('shown/all.csv'), 'id,colour\n- a: [b\n');
    await writeFile(file('shown/red.json'), '{ "colour": "red" }');
    const content = (type: string, path: string) =>
      `{ "200": { description: ok, content: { ${type}: { examples: { shown: { externalValue: ${path} } } } } } }`;
    await writeFile(
      file('shown.yaml'),
      `openapi: 3.0.3\ninfo: { title: Shown, version: "1" }\npaths:\n` +
        `  /a: { get: { responses: ${content('application/json', './shown/red.json')} } }\n` +
        `  /b: { get: { responses: ${content('text/csv', 'shown/all.csv')} } }\n` +
        `  /c: { get: { responses: ${content('text/csv', 'shown/none.csv')} } }\n`,
    );
    const { code, err } = await upsetter(['draft', 'openapi', file('shown.yaml'), '-o', file('shown-service.yaml')]);
    expect(code).toBe(0);
    expect(err).toContain('shown/none.csv  there is no such file');
    const drafted = await readFile(file('shown-service.yaml'), 'utf8');
    expect(drafted).toContain('json:\n            colour: red');
    expect(drafted).toContain('- a: [b');
    const check = await upsetter(['contract', 'check', file('shown-service.yaml')]);
    expect(check.err).toContain('./shown/none.csv was not read');
    expect(check.out).toContain('2 cases as the contract says, 1 not');
  });

  test('makes rows of what is listed and read, so many as are asked for', async () => {
    const source = 'packages/demo/files/berth-desk.openapi.yaml';
    const { out, err } = await upsetter(['draft', 'openapi', source, '--rows', '3']);
    expect(out.match(/^ {6}- id: [NS]\d/gm)).toHaveLength(3);
    expect(err).toContain('berths and bookings are rows, which calls change');
    expect(await upsetter(['draft', 'openapi', source, '--rows', 'some'])).toMatchObject({
      code: 2,
      err: expect.stringContaining('--rows is a number from 1 to 10000, not some'),
    });
  });

  test('tells what was not read and why, and drafts the rest', async () => {
    await writeFile(file('far.yaml'), MAIN('https://elsewhere.example/lamp.yaml#/Lamp'));
    const far = await upsetter(['draft', 'openapi', file('far.yaml')]);
    expect(far.code).toBe(0);
    expect(far.out).toContain('on: GET /v1/oil');
    expect(far.err).toContain('elsewhere.example was not named: --allow elsewhere.example lets it be read');
    served.set('/lost.yaml', MAIN('gone.yaml#/Lamp'));
    const lost = await upsetter(['draft', 'openapi', `${origin}/lost.yaml`]);
    expect(lost.err).toContain('it answers 404');
    served.set('/sly.yaml', MAIN('file:///etc/hostname'));
    expect((await upsetter(['draft', 'openapi', `${origin}/sly.yaml`])).err).toContain(
      'a document from the network may not refer to a file',
    );
  });

  test('goes by the same rules where a redirect leads, and where a file leads to the network and back', async () => {
    served.set('/here.yaml', LAMP);
    redirected.set('/moved.yaml', '/here.yaml');
    redirected.set('/away.yaml', 'https://elsewhere.example/lamp.yaml');
    redirected.set('/round.yaml', '/round.yaml');
    served.set('/sly-part.yaml', 'Lamp: { $ref: "file:///etc/hostname" }\n');
    const draftWith = async (ref: string) => {
      await writeFile(file('via.yaml'), MAIN(ref));
      return upsetter(['draft', 'openapi', file('via.yaml')]);
    };
    expect((await draftWith(`${origin}/moved.yaml#/Lamp`)).out).toContain('colour: red');
    expect((await draftWith(`${origin}/away.yaml#/Lamp`)).err).toContain('elsewhere.example was not named');
    expect((await draftWith(`${origin}/round.yaml#/Lamp`)).err).toContain('it redirects more than 5 times');
    expect((await draftWith(`${origin}/sly-part.yaml#/Lamp`)).err).toContain(
      'a document from the network may not refer to a file',
    );
  });

  test('a contract that cannot be read at all is told with its line, or the reason', async () => {
    await writeFile(file('broken.yaml'), 'openapi: 3.1.0\npaths: { a: [\n');
    const broken = await upsetter(['draft', 'openapi', file('broken.yaml')]);
    expect(broken).toMatchObject({ code: 2, err: expect.stringMatching(/broken\.yaml:\d+:\d+/) });
    const none = await upsetter(['draft', 'openapi', 'http://127.0.0.1:9/x.yaml']);
    expect(none).toMatchObject({ code: 2, err: expect.stringContaining('http://127.0.0.1:9/x.yaml') });
  });
});

describe('upsetter contract check', () => {
  test('says which cases differ, where and from which rule, and fails; one that keeps to it does not', async () => {
    await upsetter(['draft', 'openapi', file('lamps.yaml'), '-o', file('good.yaml')]);
    const good = await upsetter(['contract', 'check', file('good.yaml'), '--against', file('lamps.yaml')]);
    expect(good).toMatchObject({ code: 0, out: expect.stringContaining('2 cases as the contract says') });
    await writeFile(
      file('bad.yaml'),
      (await readFile(file('good.yaml'), 'utf8')).replace('colour: red', 'colour: rde'),
    );
    const bad = await upsetter([
      'contract',
      'check',
      file('bad.yaml'),
      '--against',
      file('lamps.yaml'),
      '--junit',
      file('j.xml'),
    ]);
    expect(bad.code).toBe(1);
    expect(bad.out).toContain('readLamp / as documented');
    expect(bad.out).toContain('json $.colour  "rde" is none of "red", "green"; did you mean "red"?');
    expect(bad.out).toContain('lamp.yaml#/Lamp/properties/colour/enum (line 1)');
    const junit = await readFile(file('j.xml'), 'utf8');
    expect(junit).toContain('tests="2" failures="1"');
    expect(junit).toContain('did you mean &quot;red&quot;?');
  });

  test('as JSON has the same, for programs; without a contract it says what to name', async () => {
    const { out } = await upsetter(['contract', 'check', file('bad.yaml'), '--against', file('lamps.yaml'), '--json']);
    expect(JSON.parse(out)).toMatchObject({
      cases: [{ outcome: 'differs' }, { outcome: 'holds' }],
      unknown: [],
      missing: [],
    });
    await writeFile(file('none.yaml'), 'upsetter: 1\nservice: none\noperations: {}\n');
    const none = await upsetter(['contract', 'check', file('none.yaml')]);
    expect(none).toMatchObject({ code: 2, err: expect.stringContaining('--against') });
  });

  test('with --merge, the operations that a file lacks are added, and what is there stays', async () => {
    const own =
      'upsetter: 1\nservice: lamps\noperations:\n  # by hand\n  readOil:\n    on: GET /oil\n    cases:\n      - case: mine\n        answer: { json: { barrels: 9 } }\n';
    await writeFile(file('own.yaml'), own);
    const merged = await upsetter(['draft', 'openapi', file('lamps.yaml'), '-o', file('own.yaml'), '--merge']);
    expect(merged).toMatchObject({ code: 0, err: expect.stringMatching(/added\s+readLamp\s*$/) });
    const text = await readFile(file('own.yaml'), 'utf8');
    expect(text.startsWith(own.trimEnd())).toBe(true);
    expect(text).toContain('on: GET /v1/lamps/{id}');
    const again = await upsetter(['draft', 'openapi', file('lamps.yaml'), '-o', file('own.yaml'), '--merge']);
    expect(again.err).toContain('nothing new in the draft');
    expect(await readFile(file('own.yaml'), 'utf8')).toBe(text);
  });
});

describe('a service file that names its contract', () => {
  const NAMED = `# lamps
upsetter: 1
service: lamps
contract: ./lamps.yaml
operations:
  readLamp: # one
    on: GET /v1/lamps/{id}
    cases:
      - case: lit
        answer: { json: { id: [L1], colour: red } }
`;

  test('is what a draft is, where the contract stands beside it; not where it stands elsewhere', async () => {
    await upsetter(['draft', 'openapi', file('lamps.yaml'), '-o', file('followed.yaml')]);
    expect(await readFile(file('followed.yaml'), 'utf8')).toContain('\ncontract: ./lamps.yaml\n');
    expect(await upsetter(['contract', 'check', file('followed.yaml')])).toMatchObject({ code: 0 });
    await upsetter(['draft', 'openapi', file('lamps.yaml'), '-o', file('parts/below.yaml')]);
    expect(await readFile(file('parts/below.yaml'), 'utf8')).not.toContain('contract:');
    const service = await startCommand(['run', file('followed.yaml'), '--port', '0']);
    const env = { UPSETTER_URL: service.control };
    expect((await upsetter(['draft', 'openapi', file('lamps.yaml'), '--as', 'adopted', '--adopt'], env)).code).toBe(0);
    expect((await upsetter(['show', 'adopted', '--file'], env)).out).toContain('contract: ./lamps.yaml');
    await interrupt(service);
  });

  test('is checked against it, with the line of what differs', async () => {
    await writeFile(file('named.yaml'), NAMED);
    const { code, out } = await upsetter(['contract', 'check', file('named.yaml')]);
    expect(code).toBe(1);
    expect(out).toContain(`${file('named.yaml')}:10  json $.id  ["L1"] is not of the type string`);
    expect(out).toContain('no operation  GET /v1/oil');
  });

  test('is completed in place: what is there keeps its very characters', async () => {
    await writeFile(file('named.yaml'), NAMED);
    const added = await upsetter(['contract', 'complete', file('named.yaml'), 'GET /v1/oil']);
    expect(added).toMatchObject({ code: 0, out: 'added  readOil\n' });
    const text = await readFile(file('named.yaml'), 'utf8');
    expect(text.startsWith(NAMED)).toBe(true);
    expect(text.slice(NAMED.length)).toContain('  readOil:\n    on: GET /v1/oil\n');
    expect((await upsetter(['contract', 'complete', file('named.yaml')])).out).toBe('Nothing is missing.\n');
    expect((await upsetter(['contract', 'complete', file('named.yaml'), 'oil'])).code).toBe(2);
  });

  test('is applied with all the files the contract refers to', async () => {
    await writeFile(file('named.yaml'), NAMED);
    const service = await startCommand(['run', file('named.yaml'), '--port', '0']);
    await fetch(`${service.services['lamps']}/v1/oil?x=1`);
    const { out } = await upsetter(['calls', '--findings'], { UPSETTER_URL: service.control });
    expect(out).toBe('No call differs from its contract.\n');
    await fetch(`${service.services['lamps']}/v1/wicks`);
    expect((await upsetter(['calls', '--findings'], { UPSETTER_URL: service.control })).out).toContain('1 finding');
    await interrupt(service);
  });
});
