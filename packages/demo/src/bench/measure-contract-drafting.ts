import { execFile } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { pairedRatios, type Spread, spreadOf } from './statistics.js';

const ONCE = fileURLToPath(new URL('./contract-once.js', import.meta.url));

interface Once {
  readonly ms: number;
  readonly bytes: number;
  readonly peakKb: number;
}

export interface ContractDrafting {
  readonly megabytes: number;
  readonly readMs: Spread;
  readonly draftMs: Spread;
  readonly ratio: Spread;
  readonly readPeakMb: Spread;
  readonly draftPeakMb: Spread;
}

/** A large contract, read and resolved by a general-purpose library, and drafted by us: in turn, each in a process of its own. */
export async function measureContractDrafting(rounds: number): Promise<ContractDrafting> {
  const [read, draft]: [Once[], Once[]] = [[], []];
  for (let round = 0; round < rounds; round++) {
    read.push(await once('read'));
    draft.push(await once('draft'));
  }
  const ms = (all: readonly Once[]): number[] => all.map((own) => own.ms);
  const peak = (all: readonly Once[]): number[] => all.map((own) => own.peakKb / 1000);
  return {
    megabytes: (read[0]?.bytes ?? 0) / 1e6,
    readMs: spreadOf(ms(read)),
    draftMs: spreadOf(ms(draft)),
    ratio: pairedRatios(ms(draft), ms(read)),
    readPeakMb: spreadOf(peak(read)),
    draftPeakMb: spreadOf(peak(draft)),
  };
}

async function once(what: 'read' | 'draft'): Promise<Once> {
  const { stdout } = await promisify(execFile)(process.execPath, [ONCE, what]);
  return JSON.parse(stdout) as Once;
}
