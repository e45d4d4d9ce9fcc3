import { afterAll, beforeAll, expect, test } from 'vitest';
import { pagesOf, startBrowser, type TestBrowser } from '../support/browser.js';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';

const OPERATIONS = `
lightLamp:
  on: POST /lamps
  cases:
    - case: lit
      answer: { json: { now: "\${now}", lamps: "\${state.lamps + 1}" } }
      then: [{ set: { lamps: "\${state.lamps + 1}" } }]
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
  address = await upsetter.serve('lamp-desk', OPERATIONS, 'state: { lamps: 0 }');
});
afterAll(async () => {
  await browser.close();
  await upsetter.stop();
});

async function light(lane: string): Promise<{ now: string; lamps: number }> {
  const answer = await fetch(`${address}/lamps`, { method: 'POST', headers: { 'upsetter-lane': lane } });
  return (await answer.json()) as { now: string; lamps: number };
}

test('a lane shows what is another in it than at the start, and is reset alone', async () => {
  await light('east');
  await light('east');
  await light('west');
  const page = await open('/services/lamp-desk?view=lanes');
  const east = page.getByRole('region', { name: 'Lane east' });
  await east.getByText('state lamps').waitFor();
  expect(await east.textContent()).toContain('2 calls');
  await east.getByRole('button', { name: 'Reset' }).click();
  await east.getByText('As at the start.').waitFor();
  expect(await light('east')).toMatchObject({ lamps: 1 });
  expect(await light('west')).toMatchObject({ lamps: 2 });
});

test('its clock is stopped, set on and let run again', async () => {
  await light('north');
  const page = await open('/services/lamp-desk?view=lanes');
  const north = page.getByRole('region', { name: 'Lane north' });
  await north.getByRole('button', { name: 'Stop it' }).click();
  await north.getByText('stands still').waitFor();
  const { now } = await light('north');
  await north.getByLabel('by').fill('36h');
  await north.getByRole('button', { name: 'Set on' }).click();
  await expect.poll(async () => Date.parse((await light('north')).now) - Date.parse(now)).toBe(36 * 3_600_000);
  await north.getByLabel('by').fill('soon');
  await north.getByRole('button', { name: 'Set on' }).click();
  await north.getByRole('alert').waitFor();
  await north.getByRole('button', { name: 'Real time again' }).click();
  await north.getByText('real time').waitFor();
});

test('Try calls in the lane that is chosen; a lane that is let go of is gone', async () => {
  await light('south');
  const page = await open('/services/lamp-desk?view=lanes');
  const south = page.getByRole('region', { name: 'Lane south' });
  await south.getByRole('link', { name: 'Try here' }).click();
  await south.getByText('Try calls here').waitFor();
  await south.getByRole('button', { name: 'Let go' }).click();
  await south.waitFor({ state: 'detached' });
  expect((await upsetter.client.listLanes()).map(({ name }) => name)).not.toContain('south');
});
