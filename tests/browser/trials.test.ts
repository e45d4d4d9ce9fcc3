import { afterAll, beforeAll, expect, test } from 'vitest';
import { pagesOf, startBrowser, type TestBrowser } from '../support/browser.js';
import { type RealService, startRealService } from '../support/real-service.js';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

const OPERATIONS = `
readBuoy:
  on: GET /buoy
  cases: [{ case: lit, answer: { headers: { x-buoy: "1" }, json: { light: red } } }]
readBell:
  on: GET /bell
  cases: [{ case: rings, answer: { json: { strokes: 5 } } }]
`;

let upsetter: TestUpsetter;
let browser: TestBrowser;
let real: RealService;
const open = pagesOf(
  () => upsetter.running.address,
  () => browser,
);
beforeAll(async () => {
  upsetter = await startTestUpsetter();
  browser = await startBrowser();
  real = await startRealService((incoming, outgoing) => {
    const body = incoming.url === '/buoy' ? { light: 1 } : { strokes: 6 };
    outgoing.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(body));
  });
  await upsetter.serve('buoys', OPERATIONS, `upstream: ${real.url}`);
});
afterAll(async () => {
  await browser.close();
  await real.stop();
  await upsetter.stop();
});

test('a trial is begun, shows how the real service differs, and what becomes of the differences', async () => {
  const page = await open('/services/buoys');
  await page.getByRole('link', { name: 'Trials' }).click();
  await page.getByText('No trial yet.').waitFor();
  expect(await page.getByLabel('real implementation').inputValue()).toBe(real.url);
  await page.getByRole('button', { name: 'Try it' }).click();
  await page.waitForURL('**/services/buoys?view=trials&trial=*');
  await page.getByText('1 differ, 1 hold').waitFor();
  const buoy = page.getByRole('region', { name: 'readBuoy' });
  await buoy.getByText('is 1; the case has "red"').waitFor();
  await buoy.getByRole('button', { name: 'Messages' }).click();
  await buoy.getByText('the real one answered').waitFor();

  await page.getByRole('button', { name: 'Accept header x-buoy' }).click();
  await page.getByLabel('accepted because').fill('only the mock has it');
  await buoy.locator('form').getByRole('button', { name: 'Accept' }).click();
  await page.getByText('saved as revision 2').waitFor();
  await page.getByRole('button', { name: 'Adopt json $.light' }).click();
  await page.getByText('saved as revision 3').waitFor();

  await page.getByRole('link', { name: 'All trials' }).click();
  await page.getByText('the first one').waitFor();
  await page.getByRole('button', { name: 'Try it' }).click();
  await page.getByText('none differs, 1 hold, 1 accepted').waitFor();
  await page.getByText('differs no more').waitFor();
  await page.getByText('accepted: only the mock has it').waitFor();
});
