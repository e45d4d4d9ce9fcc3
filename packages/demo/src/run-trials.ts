import { setTimeout as wait } from 'node:timers/promises';
import type { UpsetterClient } from '@upsetter/client';

const LOOK_AGAIN_MS = 100;

/** Tries services against the real ones; each trial is kept. */
export async function runTrials(client: UpsetterClient, real: Readonly<Record<string, string>>): Promise<void> {
  for (const [service, against] of Object.entries(real)) {
    const { id } = await client.startTrial(service, {
      against,
      environment: 'harbour',
      writes: true,
      callsPerSecond: 100,
    });
    while ((await client.readTrial(id)).state === 'running') await wait(LOOK_AGAIN_MS);
  }
}
