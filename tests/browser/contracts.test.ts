import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { pagesOf, startBrowser, type TestBrowser } from '../support/browser.js';
import { fileOf, startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

const CONTRACT = `
openapi: 3.1.0
info: { title: Buoys, version: "1" }
paths:
  /buoys/{id}:
    get:
      parameters: [{ name: id, in: path, required: true, schema: { type: integer } }]
      responses:
        "200": { description: ok, content: { application/json: { schema: { type: object, required: [id], properties: { light: { enum: [red, green] } } } } } }
        "404": { description: none }
  /bells: { get: { operationId: listBells, responses: { "200": { description: ok, content: { application/json: { example: [5] } } } } } }
`;
const OPERATIONS = `
readBuoy:
  on: GET /buoys/{id}
  cases: [{ case: there, answer: { json: { id: 5, light: gren } } }]
`;

let upsetter: TestUpsetter;
let browser: TestBrowser;
let address: string;
const open = pagesOf(
  () => upsetter.running.address,
  () => browser,
);
beforeAll(async () => {
  upsetter = await startTestUpsetter();
  browser = await startBrowser();
  const saved = await upsetter.client.saveService('buoys', fileOf('buoys', OPERATIONS, 'contract: ./buoys.yaml'), {
    files: { './buoys.yaml': { kind: 'text', content: CONTRACT } },
  });
  address = saved.address ?? '';
});
afterAll(async () => {
  await browser.close();
  await upsetter.stop();
});

describe('a service that names its contract', () => {
  test('says in the catalogue how often it differs, and leads to where', async () => {
    const page = await open('/services');
    await page.getByRole('link', { name: '1 finding' }).click();
    await page.waitForURL('**/services/buoys?view=contract');
    await page.getByText('"gren" is none of "red", "green"; did you mean "green"?').waitFor();
    await page.getByText('line 6 of the file').waitFor();
  });

  test('has the finding on its line in the file', async () => {
    const page = await open('/services/buoys?view=file');
    const mark = page.locator('.cm-lintRange-warning');
    await mark.waitFor();
    expect(await mark.textContent()).toContain('gren');
  });

  test('gets what is missing by one press, opened to be edited', async () => {
    const page = await open('/services/buoys?view=contract');
    await page.getByRole('button', { name: 'Add readBuoy 404' }).click();
    await page.waitForURL('**/services/buoys?operation=readBuoy&case=%22404%22');
    await page.getByLabel('Answer of readBuoy, 404').waitFor();
    expect((await fetch(`${address}/buoys/5`, { headers: { 'upsetter-case': '404' } })).status).toBe(404);
    await page.goto(`${upsetter.running.address}/services/buoys?view=contract`);
    await page.getByRole('button', { name: 'Add GET /bells' }).click();
    await page.getByRole('region', { name: 'listBells' }).waitFor();
    expect(await (await fetch(`${address}/bells`)).json()).toEqual([5]);
  });
});

test('a call that differs is found among the calls, and says where and by which rule', async () => {
  await fetch(`${address}/buoys/five`);
  await fetch(`${address}/buoys/5`);
  const page = await open('/calls?findings=true');
  await page
    .getByRole('link', { name: /\/buoys\/five/ })
    .last()
    .click();
  const findings = page.getByRole('region', { name: 'Findings' });
  await findings.getByText('"five" is not of the type integer').waitFor();
  expect(await findings.textContent()).toContain('#/paths/~1buoys~1{id}/get/parameters/0/schema/type (line 7)');
});
