import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { fileURLToPath } from 'node:url';
import { UpsetterClient } from '@upsetter/client';
import { startUpsetter } from '@upsetter/service';
import { recordTakes } from './record-takes.js';
import { createBerthDesk } from './world/berth-desk.js';

/** Records files/booking.har and files/booking-next-day.har anew: two sessions with the real berth desk, heard through a relay. */
const FILES = fileURLToPath(new URL('../files/', import.meta.url));
const DESK_PORT = 4691;
const upsetter = await startUpsetter({
  databaseUrl: null,
  host: '127.0.0.1',
  port: 0,
  firstMockPort: 0,
  forcedMockPort: null,
  maxBodyBytes: 1_000_000,
  keptCalls: null,
  consoleDir: null,
  allowedHosts: [],
  homeDir: tmpdir(),
  logLevel: 'warn',
  version: 'demo',
});
const client = new UpsetterClient(upsetter.address);
await recordTakes(client, async () => {
  const desk = createBerthDesk();
  return { url: await desk.listen({ host: '127.0.0.1', port: DESK_PORT }), stop: () => desk.close() };
});
for (const { name } of await client.listTakes()) {
  await writeFile(`${FILES}${name}.har`, `${JSON.stringify(await client.readHar(name))}\n`);
  console.log(`wrote ${name}.har`);
}
await upsetter.stop();
