import pc from 'picocolors';

/** Colours by meaning; none when the output is no terminal. Outcomes always carry a word or a sign as well. */
export const paint = {
  good: pc.green,
  bad: pc.red,
  upset: pc.magenta,
  warn: pc.yellow,
  faint: pc.dim,
  strong: pc.bold,
} as const;

export function print(text: string): void {
  process.stdout.write(`${text}\n`);
}

export function printJson(value: unknown): void {
  print(JSON.stringify(value, null, 2));
}

/** To the error stream: what is said beside the output. */
export function tell(text: string): void {
  process.stderr.write(`${text}\n`);
}

export function widthOf(): number {
  return process.stdout.columns ?? 120;
}

const LONG_MS = 1_000;

/** Says what is going on when it takes longer than a second. */
export async function tellWhenLong<T>(what: string, working: Promise<T>): Promise<T> {
  const timer = setTimeout(() => tell(paint.faint(`${what} ...`)), LONG_MS);
  try {
    return await working;
  } finally {
    clearTimeout(timer);
  }
}
