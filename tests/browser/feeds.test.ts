import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { pagesOf, startBrowser, type TestBrowser } from '../support/browser.js';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

const CONTRACT = (type: string) => `openapi: 3.1.0
info: { title: Buoys, version: "1" }
paths:
  /buoys: { get: { operationId: listBuoys, responses: { "200": { description: ok, content: { application/json: { schema: { type: ${type} } } } } } } }
`;

let upsetter: TestUpsetter;
let browser: TestBrowser;
let folder: string;
const open = pagesOf(
  () => upsetter.running.address,
  () => browser,
);
beforeAll(async () => {
  upsetter = await startTestUpsetter();
  browser = await startBrowser();
  folder = await mkdtemp(join(tmpdir(), 'upsetter-feed-page-'));
  await writeFile(join(folder, 'buoys.yaml'), CONTRACT('integer'));
});
afterAll(async () => {
  await browser.close();
  await upsetter.stop();
  await rm(folder, { recursive: true });
});

test('a contract is followed from the console: the service is made, and what a newer version breaks is told', async () => {
  const page = await open('/services');
  await page.getByRole('link', { name: 'Contracts' }).click();
  await page.getByText('No feed yet.').waitFor();
  await page.getByLabel('service', { exact: true }).fill('buoys');
  await page.getByText('file', { exact: true }).click();
  await page.getByLabel('path of the file').fill(join(folder, 'buoys.yaml'));
  await page.getByRole('button', { name: 'Follow', exact: true }).click();
  const feed = page.getByRole('region', { name: 'Feed buoys' });
  await feed.getByText('made').waitFor();
  await page.getByText('● as the contract says').waitFor();
  await feed.getByRole('button', { name: 'Fetch now' }).click();
  await feed.getByText('nothing is new').waitFor();

  await writeFile(join(folder, 'buoys.yaml'), CONTRACT('string'));
  await feed.getByRole('button', { name: 'Fetch now' }).click();
  await feed.getByText('1 of 1 changes break callers').waitFor();
  await feed.getByText('is string, was integer').waitFor();
  await feed.getByRole('button', { name: 'Follow no more' }).click();
  await page.getByText('No feed yet.').waitFor();
  expect((await upsetter.client.listServices()).map(({ name }) => name)).toEqual(['buoys']);
});
