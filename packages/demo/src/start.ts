import { type ChildProcess, execFile, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, readFile, rm, watch } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { UpsetterClient } from '@upsetter/client';
import { followRoster } from './follow-roster.js';
import { createBoardServer } from './harbour-board/board-server.js';
import { playJourneys } from './play-journeys.js';
import { recordTakes } from './record-takes.js';
import { runTrials } from './run-trials.js';
import { createBerthDesk } from './world/berth-desk.js';
import { createManifestOffice } from './world/manifest-office.js';
import { createTideOffice } from './world/tide-office.js';

const FILES = fileURLToPath(new URL('../files/', import.meta.url));
const COMMAND = fileURLToPath(new URL('../../cli/bin/upsetter.js', import.meta.url));
const execFileAsync = promisify(execFile);
const BOARD_PORT = 4690;
const BERTH_DESK_PORT = 4691;
const TIDE_OFFICE_PORT = 4692;
const MANIFEST_OFFICE_PORT = 4693;

/** The demo: the world's real services, the harbour board, Upsetter on PostgreSQL with the demo's services, and some calls. Ctrl-C ends it all. */
async function main(): Promise<void> {
  const world = [createBoardServer(), createBerthDesk(), createTideOffice(), createManifestOffice()];
  const [board, berthDesk, tideOffice, manifestOffice] = await Promise.all(
    world.map((app, i) => app.listen({ host: '127.0.0.1', port: BOARD_PORT + i })),
  );
  const { child, control } = await startUpsetter();
  const ended = Promise.race([once(process, 'SIGINT'), once(process, 'SIGTERM'), once(child, 'exit')]);
  const client = new UpsetterClient(control);
  await applyFiles(control, ['berth-desk', 'tide-office', 'manifest-office', 'vessel-register']);
  await recordTakes(client, async () => {
    const desk = createBerthDesk();
    return { url: await desk.listen({ host: '127.0.0.1', port: 0 }), stop: () => desk.close() };
  });
  await followRoster(client, FILES);
  await runTrials(client, { 'berth-desk': berthDesk ?? '', 'manifest-office': manifestOffice ?? '' });
  const services = await client.listServices();
  const addressOf = (name: string): string => services.find((service) => service.name === name)?.address ?? '';
  await client.setLaneClock('night-shift', { advance: '6h' });
  await playJourneys({
    berthDesk: addressOf('berth-desk'),
    tideOffice: addressOf('tide-office'),
    pilotRoster: addressOf('pilot-roster'),
    board: board ?? '',
    vesselRegister: addressOf('vessel-register'),
  });
  console.log(`
  console              ${control}
  mock berth-desk      ${addressOf('berth-desk')}   (the real one: ${berthDesk}, port ${BERTH_DESK_PORT})
  mock tide-office     ${addressOf('tide-office')}   (the real one: ${tideOffice}, port ${TIDE_OFFICE_PORT})
  mock manifest-office ${addressOf('manifest-office')}   (the real one: ${manifestOffice}, port ${MANIFEST_OFFICE_PORT})
  mock pilot-roster    ${addressOf('pilot-roster')}   (follows its contract in a git repository; tells pilots to ${board}/pilots)
  mock vessel-register ${addressOf('vessel-register')}   (nothing but rows: /vessels?type=tanker&sort=-length)
  harbour board        ${board}/?tides=${addressOf('tide-office')}

  Try:  npx upsetter services
        npx upsetter calls --strays
        npx upsetter check packages/demo/files/checks.yaml
        npx upsetter trial berth-desk --against ${berthDesk} --writes
        npx upsetter draft take booking --as booking-desk --adopt

  Ctrl-C ends everything.`);
  await ended;
  await stopChild(child);
  await Promise.all(world.map((app) => app.close()));
}

async function startUpsetter(): Promise<{ child: ChildProcess; control: string }> {
  const directory = await mkdtemp(join(tmpdir(), 'upsetter-demo-'));
  const ready = join(directory, 'ready.json');
  const appeared = waitForFile(directory, 'ready.json');
  // A group of its own: Ctrl-C reaches the demo first, which then ends the service.
  const child = spawn(process.execPath, [COMMAND, 'up', '--ready', ready], {
    stdio: ['ignore', 'ignore', 'inherit'],
    detached: true,
  });
  const failed = once(child, 'exit').then(([code]) =>
    Promise.reject(new Error(`upsetter up ended with exit code ${code}`)),
  );
  failed.catch(() => {});
  await Promise.race([appeared, failed]);
  const { control } = JSON.parse(await readFile(ready, 'utf8')) as { control: string };
  await rm(directory, { recursive: true });
  return { child, control };
}

async function waitForFile(directory: string, name: string): Promise<void> {
  for await (const { filename } of watch(directory)) if (filename === name) return;
}

/** By the command itself: a service file comes with all that stands beside it. */
async function applyFiles(control: string, names: readonly string[]): Promise<void> {
  const paths = names.map((name) => join(FILES, `${name}.yaml`));
  const { stdout } = await execFileAsync(process.execPath, [
    COMMAND,
    'apply',
    ...paths,
    '--replace',
    '--control',
    control,
  ]);
  console.log(stdout.trimEnd());
}

async function stopChild(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null) return;
  const exited = once(child, 'exit');
  child.kill('SIGTERM');
  await exited;
}

try {
  await main();
} catch (error) {
  const { code, port, message } = error as NodeJS.ErrnoException & { port?: number };
  console.error(
    code === 'EADDRINUSE' ? `port ${port} is taken: is the demo running already?` : `the demo cannot start: ${message}`,
  );
  process.exit(1);
}
