import type { Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { pagesOf, startBrowser, type TestBrowser } from '../support/browser.js';
import { createDatabase, type TestDatabase } from '../support/database.js';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

const OPERATIONS = `
readLamp:
  on: GET /lamps/{id}
  title: One lamp
  cases:
    - case: lit
      when: { path id: { like: "L*" } }
      answer: { json: { id: "\${call.path.id}", lit: true } }
    - case: dark
      when: { query day: "1" }
      answer: { status: 404, problem: { title: Dark } }
`;

let database: TestDatabase;
let upsetter: TestUpsetter;
let browser: TestBrowser;
let address: string;

const open = pagesOf(
  () => upsetter.running.address,
  () => browser,
);

beforeAll(async () => {
  database = await createDatabase();
  upsetter = await startTestUpsetter({ databaseUrl: database.url });
  browser = await startBrowser();
  address = await upsetter.serve('lighthouse', OPERATIONS);
});
afterAll(async () => {
  await browser.close();
  await upsetter.stop();
  await database.drop();
});

/** Replaces what stands in a code editor. */
async function typeInto(page: Page, label: string, text: string): Promise<void> {
  const editor = page.getByLabel(label);
  await editor.click();
  await page.keyboard.press('Control+A');
  // Deleted first: over a selection, Chromium itself writes a style attribute, which the policy refuses (and the editor redraws).
  await page.keyboard.press('Delete');
  await page.keyboard.insertText(text);
}

describe('Services', () => {
  test('lists each service with its address and leads to it', async () => {
    const page = await open('/');
    await page.getByRole('link', { name: 'lighthouse' }).click();
    await page.waitForURL('**/services/lighthouse');
    expect(await page.getByRole('heading', { level: 1 }).textContent()).toBe('lighthouse');
    expect(await page.locator('main').textContent()).toContain(address);
  });

  test('a new service is made by its name, answers at once, and is not made twice', async () => {
    const page = await open('/services');
    await page.getByLabel('new service').fill('buoy-desk');
    await page.getByRole('button', { name: 'Make it' }).click();
    await page.waitForURL('**/services/buoy-desk?view=file');
    const made = await upsetter.client.readService('buoy-desk');
    expect(await (await fetch(`${made.address}/first/7`)).json()).toEqual({ id: '7' });
    await page.getByRole('link', { name: 'Services' }).click();
    await page.getByLabel('new service').fill('Buoy Desk');
    await page.getByRole('button', { name: 'Make it' }).click();
    await page.getByText('a name of a-z, 0-9 and - is expected').waitFor();
    await upsetter.client.removeService('buoy-desk');
  });

  test('an empty catalogue says what to do first', async () => {
    const empty = await startTestUpsetter();
    const page = await open(`${empty.running.address}/services`);
    await page.getByText('No services yet').waitFor();
    await page.goto('about:blank');
    await empty.stop();
  });
});

describe('one service', () => {
  test('shows its ladders of cases in order, with conditions', async () => {
    const page = await open('/services/lighthouse');
    const rungs = page.getByRole('region', { name: 'readLamp' }).getByRole('button');
    await rungs.first().waitFor();
    expect(await rungs.allTextContents()).toEqual(['1lit path id like L*200', '2dark query day "1"404']);
  });

  test('an answer edited in place answers the next call', async () => {
    const page = await open('/services/lighthouse');
    await page.getByRole('button', { name: /lit/ }).click();
    await page.waitForURL('**operation=readLamp&case=lit');
    await typeInto(page, 'Answer of readLamp, lit', 'json: { id: edited }');
    await page.getByRole('button', { name: 'Save answer' }).click();
    await page.getByText('saved as revision 2').waitFor();
    expect(await (await fetch(`${address}/lamps/L1`)).json()).toEqual({ id: 'edited' });
  });

  test('an answer with a mistake is refused and says why; the old one goes on answering', async () => {
    const page = await open('/services/lighthouse?operation=readLamp&case=lit');
    await typeInto(page, 'Answer of readLamp, lit', 'json: { id: "${cal.id}" }');
    await page.getByRole('button', { name: 'Save answer' }).click();
    await page.getByText('nothing is called `cal`; did you mean `call`?').waitFor();
    expect((await fetch(`${address}/lamps/L1`)).status).toBe(200);
  });

  test('the file as text shows a mistake on its line, and is saved once it is mended', async () => {
    const page = await open('/services/lighthouse?view=file');
    const { file } = await upsetter.client.readService('lighthouse');
    await typeInto(page, 'Service file of lighthouse', file.replace('    title: One lamp', '    titel: One lamp'));
    await page.getByRole('button', { name: 'Save file' }).click();
    await page.getByText('line 6, column 5: an operation has no key `titel`; did you mean `title`?').waitFor();
    expect(await page.locator('.cm-lintRange-error').count()).toBeGreaterThan(0);
    await typeInto(page, 'Service file of lighthouse', file.replace('    title: One lamp', '    title: The lamp'));
    await page.getByRole('button', { name: 'Save file' }).click();
    await page.getByText('saved as revision 3').waitFor();
    expect((await upsetter.client.readService('lighthouse')).operationList[0]?.title).toBe('The lamp');
  });

  test('somebody else saving in between is said, and nothing is overwritten', async () => {
    const page = await open('/services/lighthouse?view=file');
    await page.getByLabel('Service file of lighthouse').waitFor();
    const { file, revision } = await upsetter.client.readService('lighthouse');
    await upsetter.client.saveService('lighthouse', `${file}# theirs\n`);
    await page.getByText('somebody has saved a later revision').waitFor();
    await page.getByRole('button', { name: 'Read theirs' }).click();
    await page.getByText('# theirs').waitFor();
    expect((await upsetter.client.readService('lighthouse')).revision).toBe(revision + 1);
  });

  test('an answer that is being typed is not replaced when somebody saves something else, and can be saved then', async () => {
    const page = await open('/services/lighthouse?operation=readLamp&case=lit');
    await typeInto(page, 'Answer of readLamp, lit', 'json: { id: typed }');
    await page.getByText('not saved yet').waitFor();
    const { file } = await upsetter.client.readService('lighthouse');
    const { revision } = await upsetter.client.saveService('lighthouse', `${file}# more of theirs\n`);
    await page.getByText(`revision ${revision},`).waitFor();
    expect(await page.getByLabel('Answer of readLamp, lit').textContent()).toContain('typed');
    await page.getByRole('button', { name: 'Save answer' }).click();
    await page.getByText(`saved as revision ${revision + 1}`).waitFor();
    expect((await upsetter.client.readService('lighthouse')).file).toContain('# more of theirs');
    expect(await (await fetch(`${address}/lamps/L1`)).json()).toEqual({ id: 'typed' });
  });

  test('an upset is added and switched off while the mock runs', async () => {
    const page = await open('/services/lighthouse');
    const panel = page.getByRole('region', { name: 'Upsets' });
    await panel.getByLabel('answer').fill('503');
    await panel.getByRole('button', { name: 'Upset' }).click();
    const toggle = panel.getByRole('switch', { name: /answer 503/ });
    await toggle.waitFor();
    expect((await fetch(`${address}/lamps/L1`)).status).toBe(503);
    await panel.getByText('in force: answer 503').click();
    await panel.getByText('all calm').waitFor();
    expect((await fetch(`${address}/lamps/L1`)).status).toBe(200);
  });

  test('Try sends a call and says what came back and why', async () => {
    const page = await open('/services/lighthouse');
    const panel = page.getByRole('region', { name: 'Try' });
    await panel.getByLabel('path and query').fill('/lamps/M1?day=2');
    await panel.getByRole('button', { name: 'Send' }).click();
    await panel.getByText('no case of readLamp holds', { exact: true }).waitFor();
    expect(await panel.getByRole('status').textContent()).toContain('404');
    expect(await panel.getByRole('row', { name: /path id/ }).textContent()).toContain('wanted like L*');
  });
});

describe('calls', () => {
  test('the ticker tells of a call as it comes, and leads to it', async () => {
    const page = await open('/services');
    const ticker = page.getByRole('complementary', { name: 'Latest calls' });
    await ticker.getByText('live').waitFor();
    await fetch(`${address}/lanterns/7`, { headers: { authorization: 'Bearer s3cret' } });
    const first = ticker.getByRole('listitem').first();
    await ticker.getByRole('listitem').filter({ hasText: '404' }).first().waitFor();
    await first.getByRole('link').click();
    const why = page.getByRole('region', { name: 'Why' });
    await why.getByText('no operation has this path; closest is readLamp').waitFor();
    expect(await page.getByRole('region', { name: 'Request' }).textContent()).toContain('Bearer (masked)');
    expect(await page.content()).not.toContain('s3cret');
  });

  test('shows what was called back, once it is, with each try', async () => {
    const telling = await upsetter.serve(
      'telling',
      `tell:\n  on: POST /tell\n  cases:\n    - case: told\n      answer: { status: 202, none: true }\n      then: [{ callback: { to: "\${call.query.to}", json: { lit: true }, after: 200ms, tries: 2, gap: 1ms } }]`,
    );
    await fetch(`${telling}/tell?to=${encodeURIComponent(`${address}/nobody`)}`, { method: 'POST' });
    const { calls } = await upsetter.client.listCalls({ service: 'telling' });
    const page = await open(`/calls/${calls[0]?.id}`);
    const panel = page.getByLabel('Callbacks');
    await panel.getByText('failed', { exact: true }).waitFor();
    expect(await panel.innerText()).toContain(`POST ${address}/nobody`);
    expect(await panel.getByText(/^(404|405) in/).count()).toBe(2);
  });

  test('a call that was delayed shows what was asked and given', async () => {
    await upsetter.client.upset('lighthouse', { upset: 'fog', delay: '60ms' });
    await fetch(`${address}/lamps/L1`);
    await upsetter.client.calm('lighthouse');
    const [call] = (await upsetter.client.listCalls({ limit: 1 })).calls;
    const page = await open(`/calls/${call?.id}`);
    await page.getByRole('region', { name: 'Upsets of this call' }).getByText('asked 60 ms').waitFor();
    await page.getByRole('region', { name: 'Why' }).getByText('● answered').first().waitFor();
  });

  test('the list is narrowed to strays, by an address that can be shared', async () => {
    await fetch(`${address}/lamps/L1`);
    await fetch(`${address}/nowhere`);
    const page = await open('/calls');
    await page.getByRole('link', { name: 'strays' }).click();
    await page.waitForURL('**strays=true');
    await page.locator('main').getByText('/nowhere').first().waitFor();
    expect(await page.locator('main').getByText('readLamp / lit').count()).toBe(0);
  });
});
