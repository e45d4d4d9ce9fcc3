import { createAsk, FIRST_SESSION, playBookingSession, SECOND_SESSION } from '@upsetter/demo/sessions';
import { createBerthDesk } from '@upsetter/demo/world';
import type { FastifyInstance } from 'fastify';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { pagesOf, startBrowser, type TestBrowser } from '../support/browser.js';
import { askPlain } from '../support/proxied-call.js';
import { startTestUpsetter, type TestUpsetter, until } from '../support/upsetter.js';

let upsetter: TestUpsetter;
let browser: TestBrowser;
let desk: FastifyInstance;
let deskUrl: string;

const open = pagesOf(
  () => upsetter.running.address,
  () => browser,
);

beforeAll(async () => {
  upsetter = await startTestUpsetter();
  browser = await startBrowser();
  desk = createBerthDesk();
  deskUrl = await desk.listen({ host: '127.0.0.1', port: 0 });
});
afterAll(async () => {
  await browser.close();
  await upsetter.stop();
  await desk.close();
});

test('a take is begun, shows what it hears as it comes, and is stopped', async () => {
  const page = await open('/takes');
  await page.getByText('No takes yet.').waitFor();
  await page.getByLabel('new take').fill('booking');
  await page.getByLabel('real service').fill(deskUrl);
  await page.getByRole('button', { name: 'Hear it' }).click();
  await page.getByText('Nothing was heard yet.').waitFor();
  const take = await upsetter.client.readTake('booking');
  await page
    .getByText(take.address ?? 'no address')
    .first()
    .waitFor();
  await playBookingSession(createAsk(take.address ?? ''), FIRST_SESSION);
  await page.getByText('29 exchanges with').waitFor();
  await page.getByText('29 of 29 go into the draft').waitFor();
  await page.getByRole('button', { name: 'Stop' }).click();
  await page.getByText('closed').waitFor();
  await page.getByText('masked: json token (1), header authorization (3)').waitFor();
});

test('an exchange shows both sides, and can be left out of the draft', async () => {
  const page = await open('/takes/booking');
  await page.getByRole('link', { name: 'POST /login' }).click();
  await page.getByRole('heading', { name: 'Answer 200' }).waitFor();
  await page.getByText('"user": "ida"').first().waitFor();
  expect(page.url()).toContain('exchange=0');
  await page.getByRole('checkbox', { name: 'Keep exchange 1 in the draft' }).click({ force: true });
  await page.getByText('28 of 29 go into the draft').waitFor();
  await page.getByRole('link', { name: 'Draft' }).click();
  await page.getByText('28 of 28 exchanges answered as heard').waitFor();
  await page.getByText('left out 1 as you said').waitFor();
});

test('a draft shows its decisions with their evidence; one that is overruled is drafted anew, and can be taken back', async () => {
  const page = await open('/takes/booking?view=draft');
  await page.getByText('29 of 29 exchanges answered as heard').waitFor();
  await page.getByText('bookings are rows, told apart by id').waitFor();
  const decision = page.getByRole('listitem').filter({ hasText: 'bookings are rows' });
  await decision.getByRole('button', { name: 'no rows' }).click();
  await page.getByText('you said: records:bookings is no').waitFor();
  await until(async () => (await page.getByText('bookings are rows').count()) === 0);
  await page.getByRole('button', { name: 'take back' }).click();
  await page.getByText('bookings are rows, told apart by id').waitFor();
  await page.getByText('as-heard', { exact: true }).click();
  await page.getByText('the same session, answered as it was').waitFor();
  await until(async () => (await page.getByText('bookings are rows').count()) === 0);
});

test('a draft is adopted, and the mock then answers a session of another day', async () => {
  const page = await open('/takes/booking?view=draft');
  await page.getByLabel('service', { exact: true }).fill('booking-desk');
  await page.getByRole('button', { name: 'Draft again' }).click();
  await page.getByRole('heading', { name: 'booking-desk' }).waitFor();
  await page.getByRole('button', { name: 'Adopt' }).click();
  await page.getByText('adopted:').waitFor();
  const service = await upsetter.client.readService('booking-desk');
  await playBookingSession(createAsk(service.address ?? ''), SECOND_SESSION);
  await page.getByRole('button', { name: 'Merge into revision 1' }).click();
  await page.getByText('0 added; 0 drafted anew; 0 kept as edited').waitFor();
});

test('a take is begun through a proxy, and says what became of each host', async () => {
  const page = await open('/takes');
  await page.getByLabel('new take').fill('passing');
  await page.getByText('proxy', { exact: true }).click();
  await page.getByLabel('hosts to hear (empty: all)').fill('127.0.0.1');
  await page.getByRole('button', { name: 'Hear it' }).click();
  await page.getByRole('link', { name: "the certificate of Upsetter's authority" }).waitFor();
  const take = await upsetter.client.readTake('passing');
  await askPlain(take.address ?? '', `${deskUrl}/berths`);
  await askPlain(take.address ?? '', 'http://localhost:1/lamps');
  await page.getByText('1 exchange through a proxy').waitFor();
  await page.getByRole('list', { name: 'Hosts' }).getByText('localhost:1').waitFor();
  await page.getByText('1 passed untouched').waitFor();
  await page.getByRole('link', { name: 'GET /berths' }).waitFor();
});

test('a draft of a take with several origins is made from the one picked', async () => {
  const { address } = await upsetter.client.startTake({ name: 'mixed', proxy: { hosts: [] } });
  const other = createBerthDesk();
  const otherUrl = await other.listen({ host: '127.0.0.1', port: 0 });
  for (const url of [`${deskUrl}/berths`, `${deskUrl}/berths/N7`, `${otherUrl}/berths`])
    await askPlain(address ?? '', url);
  await other.close();
  const page = await open('/takes/mixed?view=draft');
  await page.getByText('2 of 2 exchanges answered as heard').waitFor();
  await page.getByRole('button', { name: /the one heard most/ }).click();
  await page.getByRole('option', { name: otherUrl }).click();
  await page.getByText('1 of 1 exchange answered as heard').waitFor();
});
