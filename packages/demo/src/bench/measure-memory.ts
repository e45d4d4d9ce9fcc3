import { execFileSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';

export interface MemoryFigures {
  readonly operationBytes: number;
  readonly laneBytes: number;
}

/** Heap of one operation and of one lane, in a process of its own. */
export function measureMemory(): MemoryFigures {
  const script = fileURLToPath(new URL('./memory-once.js', import.meta.url));
  return JSON.parse(execFileSync(process.execPath, ['--expose-gc', script], { encoding: 'utf8' })) as MemoryFigures;
}
