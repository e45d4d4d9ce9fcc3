import { join } from 'node:path';
import { UpsetterClient } from '@upsetter/client';
import { chromium, type Page } from 'playwright-core';

/** Takes a picture of each page of the console of a running demo: node take-screenshots.js DIRECTORY [CONTROL]. */
const directory = process.argv[2] ?? 'docs/screenshots';
const control = process.argv[3] ?? 'http://127.0.0.1:4600';
const client = new UpsetterClient(control);

const { calls } = await client.listCalls({ limit: 200 });
const stray = calls.find((call) => call.stray && call.operation !== null);
const slow = calls.find((call) => call.delayGivenMs > 0);

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-quic', '--disable-background-networking'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const troubles: string[] = [];
page.on('console', (message) => {
  if (message.type() === 'error') troubles.push(message.text());
});
page.on('pageerror', (error) => troubles.push(error.message));

await shoot('services', '/services', (at) => at.waitForSelector('text=berth-desk'));
await shoot('service', '/services/tide-office', async (at) => {
  await at.waitForSelector('text=spring tide');
  await at.getByLabel('path and query').fill('/tides/skerry?day=soon');
  await at.getByRole('button', { name: 'Send' }).click();
  await at.waitForSelector('text=no case of readTide holds');
});
await shoot('service-file', '/services/berth-desk?view=file', async (at) => {
  await at.locator('.cm-content').click();
  await at.keyboard.press('Control+Home');
  await at.locator('.cm-line', { hasText: 'title: Berth desk' }).click();
  await at.keyboard.press('Home');
  await at.keyboard.type('titel: x\n');
  await at.getByRole('button', { name: 'Save file' }).click();
  await at.waitForSelector('text=did you mean');
});
await shoot('service-contract', '/services/berth-desk?view=contract', (at) =>
  at.waitForSelector('text=Not as the contract says'),
);
await shoot('service-lanes', '/services/berth-desk?view=lanes&lane=night-shift', (at) =>
  at.waitForSelector('text=Real time again'),
);
const [trial] = await client.listTrials('berth-desk');
if (trial !== undefined)
  await shoot('service-trial', `/services/berth-desk?view=trials&trial=${trial.id}`, async (at) => {
    await at.getByRole('button', { name: 'Messages' }).first().click();
    await at.waitForSelector('text=the real one answered');
  });
await shoot('contracts', '/contracts', (at) => at.waitForSelector('text=breaks callers'));
await shoot('take', '/takes/booking?exchange=4', (at) => at.waitForSelector('text=Answer 201'));
await shoot('take-draft', '/takes/booking?view=draft', async (at) => {
  await at.waitForSelector('text=answered as heard');
  await at.waitForSelector('.cm-content');
});
await shoot('calls', '/calls', (at) => at.waitForSelector('text=readTide / spring tide'));
if (stray !== undefined)
  await shoot('call-stray', `/calls/${stray.id}`, (at) => at.waitForSelector('text=did not hold'));
if (slow !== undefined) await shoot('call-upset', `/calls/${slow.id}`, (at) => at.waitForSelector('text=given'));
await browser.close();
for (const trouble of troubles) console.log(`console: ${trouble}`);

async function shoot(name: string, path: string, prepare: (at: Page) => Promise<unknown>): Promise<void> {
  await page.goto(`${control}${path}`);
  await prepare(page);
  await page.waitForFunction("document.fonts.status === 'loaded'");
  await page.screenshot({ path: join(directory, `${name}.png`) });
  console.log(`took ${name}`);
}
