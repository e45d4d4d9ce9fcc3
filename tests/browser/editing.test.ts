import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { pagesOf, startBrowser, type TestBrowser } from '../support/browser.js';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

const OPERATIONS = `
readLamp:
  on: GET /lamps/{id}
  # the lamps of the light
  cases:
    - case: lit
      when: { path id: { like: "L*" } }
      answer: { json: { id: "\${call.path.id}", lit: true } }
    - case: dark
      when: { query day: "1" }
      answer: { status: 404, problem: { title: Dark } }
`;
const ROWS = `
datasets: { keepers: { key: no, rows: [{ no: 1, name: Ada }] } }
resources: { keepers: { at: /keepers } }
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
  address = await upsetter.serve('lighthouse', OPERATIONS, ROWS);
});
afterAll(async () => {
  await browser.close();
  await upsetter.stop();
});

const fileOf = async (): Promise<string> => (await upsetter.client.readService('lighthouse')).file;

describe('the file of a service', () => {
  test('completes keys and says what they mean', async () => {
    const page = await open('/services/lighthouse?view=file');
    const editor = page.getByLabel('Service file of lighthouse');
    await editor.click();
    await page.keyboard.press('Control+End');
    await page.keyboard.type('stra');
    const offer = page.locator('.cm-tooltip-autocomplete [role=option]').first();
    await offer.waitFor();
    expect(await offer.textContent()).toBe('strays');
    await page.locator('.cm-completionInfo').waitFor();
    expect(await page.locator('.cm-completionInfo').textContent()).toContain('no case answers');
    await offer.click();
    await page.keyboard.type('rel');
    await page.keyboard.press('Control+Space');
    await page.locator('.cm-tooltip-autocomplete [role=option]').filter({ hasText: 'relay' }).waitFor();
    await page.keyboard.press('Escape');
    await page
      .locator('.cm-line')
      .filter({ hasText: /^service:/ })
      .locator('span')
      .first()
      .hover();
    await page.locator('.cm-key-help').waitFor();
    expect(await page.locator('.cm-key-help').textContent()).toContain('unique name');
  });

  test('is a form, too: what is changed there is a change of the text, whose comments stay', async () => {
    const page = await open('/services/lighthouse?view=file');
    await page.getByText('form', { exact: true }).click();
    await page.getByRole('combobox', { name: 'Add' }).last().selectOption('title');
    await page.getByLabel('title', { exact: true }).fill('The light of the rock');
    await page.getByLabel('title', { exact: true }).press('Enter');
    const operations = page.locator('section[aria-label=operations]');
    await operations.locator('> header > button').click();
    const lamp = operations.locator('section[aria-label=readLamp]');
    await lamp.locator('> header > button').click();
    await lamp.locator('section[aria-label=cases] > header > button').click();
    await lamp.getByRole('button', { name: 'Move item 2 up' }).click();
    await page.getByText('text', { exact: true }).click();
    const editor = page.getByLabel('Service file of lighthouse');
    await editor.waitFor();
    expect(await editor.textContent()).toContain('title: The light of the rock');
    await page.getByRole('button', { name: 'Save file' }).click();
    await page.getByText(/saved as revision/).waitFor();
    const text = await fileOf();
    expect(text).toContain('# the lamps of the light');
    expect(text.indexOf('case: dark')).toBeLessThan(text.indexOf('case: lit'));
    expect((await fetch(`${address}/lamps/L1?day=1`)).status).toBe(404);
  });

  test('as a form takes conditions and other names, which stay where they were', async () => {
    const before = await fileOf();
    const page = await open('/services/lighthouse?view=file');
    await page.getByText('form', { exact: true }).click();
    const operations = page.locator('section[aria-label=operations]');
    await operations.locator('> header > button').click();
    await operations.getByRole('button', { name: 'Rename readLamp' }).click();
    await page.getByLabel('New name of readLamp').fill('left as it is');
    await page.getByLabel('New name of readLamp').press('Escape');
    await operations.getByRole('button', { name: 'Rename readLamp' }).click();
    await page.getByLabel('New name of readLamp').fill('readOneLamp');
    await page.getByLabel('New name of readLamp').press('Enter');
    const lamp = operations.locator('section[aria-label=readOneLamp]');
    await lamp.locator('> header > button').click();
    await lamp.locator('section[aria-label=cases] > header > button').click();
    for (const item of ['1', '2']) await lamp.locator(`section[aria-label="${item}"] > header > button`).click();
    const conditions = lamp.locator('section[aria-label=when]').first();
    await conditions.getByRole('combobox', { name: 'Add' }).last().selectOption('header ');
    await conditions.getByLabel('Name of a new entry').last().fill('header x-keeper');
    await conditions.getByRole('button', { name: 'Add' }).last().click();
    await conditions.getByLabel('header x-keeper', { exact: true }).fill('Ada');
    await conditions.getByLabel('header x-keeper', { exact: true }).press('Enter');
    await page.getByRole('button', { name: 'Save file' }).click();
    await page.getByText(/saved as revision/).waitFor();
    const text = await fileOf();
    expect(text).toContain('# the lamps of the light');
    expect(text).toMatch(/header x-keeper: Ada/);
    expect(text.indexOf('readOneLamp:')).toBe(before.indexOf('readLamp:'));
    await upsetter.client.saveService('lighthouse', before);
  });

  test('as a form says what cannot be read, and loses nothing', async () => {
    const page = await open('/services/lighthouse?view=file');
    const editor = page.getByLabel('Service file of lighthouse');
    await editor.click();
    await page.keyboard.press('Control+End');
    await page.keyboard.insertText('lane: {');
    await page.getByText('form', { exact: true }).click();
    await page.getByText('The text cannot be read as it is').waitFor();
    await page.getByText('text', { exact: true }).click();
    await editor.waitFor();
    expect(await editor.textContent()).toContain('lane: {');
  });
});

describe('the ladder of a resource', () => {
  test('says whose rows it serves', async () => {
    const page = await open('/services/lighthouse');
    await page.getByLabel('keepers.list').waitFor();
    expect(await page.getByLabel('keepers.list').textContent()).toContain('the rows of keepers');
  });
});

describe('a call', () => {
  test('gets a case of its own by one press, opened to be edited; the next one like it is answered by it', async () => {
    await fetch(`${address}/lamps/X9`);
    const page = await open('/calls?strays=true');
    await page.getByRole('link', { name: /X9/ }).first().click();
    await page.getByRole('button', { name: 'Answer this one' }).click();
    await page.waitForURL('**/services/lighthouse?operation=readLamp&case=X9');
    await page.getByLabel('Answer of readLamp, X9').waitFor();
    expect(await (await fetch(`${address}/lamps/X9`)).json()).toEqual({});
    expect((await fetch(`${address}/lamps/X8`)).status).toBe(404);
  });

  test('that is tried with headers is kept, and can be chosen again', async () => {
    const page = await open('/services/lighthouse');
    const panel = page.getByLabel('Try', { exact: true });
    await panel.getByLabel('path and query').fill('/lamps/L7');
    await panel.getByLabel('headers, one a line').fill('x-keeper: Ada');
    await panel.getByRole('button', { name: 'Send' }).click();
    await panel.getByRole('status').waitFor();
    const { calls } = await upsetter.client.listCalls({ service: 'lighthouse', limit: 1 });
    const sent = await upsetter.client.readCall(calls[0]?.id ?? '');
    expect(sent.requestHeaders.join('\n')).toContain('x-keeper\nAda');
    await panel.getByLabel('path and query').fill('/elsewhere');
    await panel.getByText('tried before (1)').click();
    await panel.getByRole('button', { name: /lamps\/L7/ }).click();
    expect(await panel.getByLabel('path and query').inputValue()).toBe('/lamps/L7');
    expect(await panel.getByLabel('headers, one a line').inputValue()).toBe('x-keeper: Ada');
  });

  test('of the log is filled in under Try by one press, in its lane', async () => {
    await fetch(`${address}/lamps/L5?again=1`, {
      method: 'PUT',
      headers: { 'x-keeper': 'Ben', 'upsetter-lane': 'night', 'content-type': 'application/json' },
      body: '{"lit":true}',
    });
    const { calls } = await upsetter.client.listCalls({ service: 'lighthouse', limit: 1 });
    const page = await open(`/calls/${calls[0]?.id}`);
    await page.getByRole('button', { name: 'Try again' }).click();
    await page.waitForURL('**/services/lighthouse?lane=night');
    const panel = page.getByLabel('Try', { exact: true });
    expect(await panel.getByLabel('method').inputValue()).toBe('PUT');
    expect(await panel.getByLabel('path and query').inputValue()).toBe('/lamps/L5?again=1');
    expect(await panel.getByLabel('headers, one a line').inputValue()).toContain('x-keeper: Ben');
    expect(await panel.getByLabel('body (JSON or XML)').inputValue()).toBe('{"lit":true}');
    await panel.getByRole('button', { name: 'Send' }).click();
    await panel.getByRole('status').waitFor();
    const again = await upsetter.client.listCalls({ service: 'lighthouse', limit: 1 });
    expect(again.calls[0]).toMatchObject({ lane: 'night', method: 'PUT', url: '/lamps/L5?again=1' });
  });

  test('that a browser sent before another is folded away', async () => {
    await fetch(`${address}/lamps/L1`, {
      method: 'OPTIONS',
      headers: { origin: 'http://a', 'access-control-request-method': 'GET' },
    });
    await fetch(`${address}/lamps/L1`);
    const page = await open('/calls');
    const rows = page.getByRole('link', { name: /OPTIONS/ });
    await page.getByRole('link', { name: '1 preflight' }).waitFor();
    expect(
      await page
        .locator('main')
        .getByRole('link', { name: /OPTIONS/ })
        .count(),
    ).toBe(0);
    await page.getByRole('link', { name: '1 preflight' }).click();
    await rows.first().waitFor();
  });
});
