import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { type BesideFiles, draftContract } from '@upsetter/core';
import * as soap from 'soap';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createDatabase, type TestDatabase } from '../support/database.js';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

const FOLDER = new URL('../../packages/demo/files/', import.meta.url);
const read = (name: string): Promise<string> => readFile(fileURLToPath(new URL(name, FOLDER)), 'utf8');
const M = 'urn:skerry-sound:manifests';
const LINE = { attributes: { number: 1 }, goods: 'salt fish', kind: 'fish', tonnes: 12.5 };

let database: TestDatabase;
let upsetter: TestUpsetter;
let files: BesideFiles;
beforeAll(async () => {
  database = await createDatabase();
  upsetter = await startTestUpsetter({ databaseUrl: database.url });
  const names = ['manifest-office.wsdl', 'manifests.xsd', 'goods.xsd'];
  const texts = await Promise.all(names.map(read));
  files = Object.fromEntries(names.map((name, i) => [`./${name}`, { kind: 'text' as const, content: texts[i] ?? '' }]));
});
afterAll(async () => {
  await upsetter.stop();
  await database.drop();
});

/** A service of this name from the given text; gives its address. */
async function save(name: string, text: string): Promise<string> {
  const own = text.replace(/^service: .*$/m, `service: ${name}`).replace(/^listen: .*$/m, 'listen: { port: 0 }');
  return (await upsetter.client.saveService(name, own, { files })).address ?? '';
}

type Call = (operation: string, args: object, headers?: Record<string, string>) => Promise<Record<string, unknown>>;

/** Calls as a client does that knows nothing but the `?wsdl` of a mock; a fault is what it rejects with. */
async function connect(address: string, port: 'ManifestDesk' | 'ManifestDesk12'): Promise<Call> {
  const client = await soap.createClientAsync(`${address}/manifests?wsdl`, {
    forceSoap12Headers: port === 'ManifestDesk12',
  });
  client.addSoapHeader({ clerk: 'Marit' }, '', 'm', M);
  const desk = client['ManifestOffice'][port];
  return (operation, args, headers) =>
    new Promise((resolve, reject) => {
      const done = (
        error: { root?: { Envelope: { Body: { Fault: object } } } } | null,
        result: Record<string, unknown>,
      ) => (error === null ? resolve(result) : reject(error.root?.Envelope.Body.Fault ?? error));
      desk[operation](args, done, undefined, headers);
    });
}

describe.each(['ManifestDesk', 'ManifestDesk12'] as const)('a SOAP client that reads our ?wsdl, by port %s', (port) => {
  const fault = (reason: unknown, detail: object) =>
    port === 'ManifestDesk'
      ? { faultcode: 'soap:Client', faultstring: reason, detail }
      : { Code: { Value: 'soap:Sender' }, Reason: { Text: { $value: reason } }, Detail: detail };

  test('gets a typed answer of each operation of a drafted service, and its faults', async () => {
    const drafted = draftContract(await read('manifest-office.wsdl'), {
      service: null,
      port: null,
      address: 'beside:///-/manifest-office.wsdl',
      texts: new Map(
        Object.entries(files).map(([name, { content }]) => [`beside:///-/${name.slice(2)}`, content] as const),
      ),
      follow: './manifest-office.wsdl',
    });
    const call = await connect(await save(`drafted-${port.toLowerCase()}`, drafted.text), port);
    expect(await call('lodgeManifest', { manifest: { vessel: '9321483', line: [LINE] } })).toMatchObject({
      manifestId: expect.stringMatching(/^MF-\d{4}$/),
      lodgedAt: expect.any(Date),
      dues: { attributes: { currency: 'SKC' }, $value: expect.stringMatching(/^\d/) },
    });
    expect(await call('readManifest', { manifestId: 'MF-1234' })).toMatchObject({
      manifest: {
        attributes: { id: 'MF-1234', state: 'lodged' },
        line: [{ attributes: {} }, {}],
      },
    });
    expect(await call('clearManifest', { manifestId: 'MF-1234', by: 'Marit' })).toMatchObject({
      manifestId: 'MF-1234',
      clearedAt: expect.any(Date),
    });
    expect(await call('askTariff', { kind: 'fish', tonnes: 2 })).toMatchObject({ attributes: { currency: 'SKC' } });
    await expect(call('readManifest', { manifestId: 'MF-9' }, { 'upsetter-case': 'unknown' })).rejects.toMatchObject(
      fault('Unknown', { manifestUnknown: { manifestId: 'MF-9' } }),
    );
  });

  test('finds in the manifest office what it lodged there', async () => {
    const name = `office-${port.toLowerCase()}`;
    const call = await connect(await save(name, await read('manifest-office.yaml')), port);
    const { manifestId } = await call('lodgeManifest', { manifest: { vessel: '9321483', line: [LINE] } });
    expect(await call('readManifest', { manifestId })).toMatchObject({
      manifest: { attributes: { id: manifestId, state: 'lodged' }, vessel: '9321483' },
    });
    await call('clearManifest', { manifestId, by: 'Marit' });
    await expect(call('clearManifest', { manifestId, by: 'Jon' })).rejects.toMatchObject(
      fault('It is cleared already', { manifestRefused: { reason: 'Cleared by Marit' } }),
    );
    const heavy = { ...LINE, tonnes: 4000 };
    await expect(
      call('lodgeManifest', { manifest: { vessel: '9321483', line: [heavy, heavy] } }),
    ).rejects.toMatchObject(fault('More than the quay holds: 8000 tonnes', {}));
    const { calls: items } = await upsetter.client.listCalls({ service: name });
    expect(items.filter(({ findings }) => findings > 0)).toEqual([]);
    expect(items.map(({ operation, case: own }) => `${operation} / ${own}`)).toContain(
      'clearManifest / cleared already',
    );
  });
});

const envelope = (body: string): string =>
  `<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body>${body}</e:Body></e:Envelope>`;
const post = (address: string, body: string) =>
  fetch(`${address}/manifests`, { method: 'POST', headers: { 'content-type': 'text/xml', soapaction: '""' }, body });

test('what is not as the contract says is refused with a fault that names each finding', async () => {
  const text = (await read('manifest-office.yaml')).replace(
    /^contract: .*$/m,
    'contract: { file: ./manifest-office.wsdl, calls: refuse }',
  );
  const address = await save('strict-office', text);
  const answer = await post(address, envelope(`<readManifest xmlns="${M}"><manifestId>7</manifestId></readManifest>`));
  expect(answer.status).toBe(500);
  expect(answer.headers.get('content-type')).toBe('text/xml; charset=utf-8');
  const body = await answer.text();
  expect(body).toContain('<faultcode>soap:Client</faultcode>');
  expect(body).toContain('<problem xmlns="urn:ietf:rfc:7807">');
  expect(body).toMatch(/<findings><i><at>xml \/readManifest\/manifestId<\/at>.*MF-\\d\{4\}/);
  expect(body).toContain('<rule>manifests.xsd element manifestId (line 56)</rule>');
});

test('an envelope that no operation takes gets a fault, and is a stray that says why', async () => {
  const address = await save('asked-office', await read('manifest-office.yaml'));
  for (const [body, code, reason] of [
    ['<a', 'Client', 'the body is not XML'],
    [envelope('<x/>'), 'Client', 'no SOAP operation at this path takes x'],
    [
      '<e:Envelope xmlns:e="urn:soap2"/>',
      'VersionMismatch',
      'envelopes of SOAP 1.1 and 1.2 are read, not of urn:soap2',
    ],
  ] as const) {
    const answer = await post(address, body);
    expect(answer.status).toBe(500);
    const text = await answer.text();
    expect(text).toContain(`<faultcode>soap:${code}</faultcode>`);
    expect(text).toContain(reason);
  }
  const { calls: items } = await upsetter.client.listCalls({ service: 'asked-office', strays: true });
  expect(items).toHaveLength(3);
});

test('the documents of a contract are served with the address they were asked at, and no others', async () => {
  const address = await save('served-office', await read('manifest-office.yaml'));
  const get = async (query: string) => {
    const answer = await fetch(`${address}/manifests?${query}`);
    return { status: answer.status, text: await answer.text() };
  };
  const main = await get('WSDL');
  expect(main.text).toContain(`<soap:address location="${address}/manifests"/>`);
  expect(main.text).toContain(`schemaLocation="${address}/manifests?wsdl=manifests.xsd"`);
  expect((await get('wsdl=goods.xsd')).text).toContain('targetNamespace="urn:skerry-sound:goods"');
  expect((await get('wsdl=other.xsd')).status).toBe(405);
  expect((await get('x=1')).status).toBe(405);
  const { calls: items } = await upsetter.client.listCalls({ service: 'served-office' });
  expect(items.map(({ answeredBy }) => answeredBy)).toEqual(['nobody', 'nobody', 'contract', 'contract']);
});
