import { execFile } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { renderSpread, spreadOf } from './statistics.js';

const ONCE = fileURLToPath(new URL('./draft-once.js', import.meta.url));
const SUBJECTS: readonly (readonly [count: number, level: string])[] = [
  [2_500, 'alive'],
  [5_000, 'alive'],
  [10_000, 'alive'],
  [10_000, 'as-heard'],
];

interface Once {
  readonly seconds: number;
  readonly bytes: number;
  readonly peakKb: number;
  readonly cases: number;
  readonly asHeard: number;
}

/** Rows of the table: drafts of sessions of growing length, each in a process of its own, in turn. */
export async function measureDrafting(rounds: number): Promise<string[]> {
  const results = SUBJECTS.map(() => [] as Once[]);
  for (let round = 0; round < rounds; round++) {
    for (const [i, [count, level]] of SUBJECTS.entries()) {
      const { stdout } = await promisify(execFile)(process.execPath, [ONCE, String(count), level]);
      results[i]?.push(JSON.parse(stdout) as Once);
    }
  }
  return SUBJECTS.map(([count, level], i) => {
    const own = results[i] ?? [];
    const megabytes = ((own[0]?.bytes ?? 0) / 1e6).toFixed(1);
    const cells = [
      `${count} (${megabytes} MB)`,
      level,
      renderSpread(spreadOf(own.map(({ seconds }) => seconds)), 1),
      renderSpread(spreadOf(own.map(({ peakKb }) => peakKb / 1000)), 0),
      String(own[0]?.cases),
      `${(((own[0]?.asHeard ?? 0) / count) * 100).toFixed(2)} %`,
    ];
    return `| ${cells.join(' | ')} |`;
  });
}
