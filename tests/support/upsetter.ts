import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { UpsetterClient } from '@upsetter/client';
import { type RunningUpsetter, startUpsetter, type UpsetterOptions } from '@upsetter/service';

export interface TestUpsetter {
  readonly running: RunningUpsetter;
  readonly client: UpsetterClient;
  /** Saves a service from operations (YAML, indented by nothing); gives its address. */
  readonly serve: (name: string, operations: string, more?: string) => Promise<string>;
  readonly stop: () => Promise<number>;
}

const CONSOLE_DIR = fileURLToPath(new URL('../../packages/console/dist', import.meta.url));

/** The service on free ports; in memory unless a database is given. */
export async function startTestUpsetter(options: Partial<UpsetterOptions> = {}): Promise<TestUpsetter> {
  const running = await startUpsetter({
    databaseUrl: null,
    host: '127.0.0.1',
    port: 0,
    firstMockPort: 0,
    forcedMockPort: null,
    maxBodyBytes: 100_000,
    keptCalls: null,
    consoleDir: CONSOLE_DIR,
    logLevel: 'silent',
    allowedHosts: [],
    homeDir: join(tmpdir(), 'upsetter-test-home'),
    version: 'test',
    ...options,
  });
  const client = new UpsetterClient(running.address);
  return {
    running,
    client,
    serve: async (name, operations, more = '') => {
      const saved = await client.saveService(name, fileOf(name, operations, more));
      return saved.address ?? '';
    },
    stop: () => running.stop(),
  };
}

export function fileOf(name: string, operations: string, more = ''): string {
  const indented = operations
    .trim()
    .split('\n')
    .map((line) => `  ${line}`);
  return ['upsetter: 1', `service: ${name}`, 'operations:', ...indented, more, ''].join('\n');
}

/** Waits until something holds; asks again at short intervals, for at most `limitMs`. */
export async function until<T>(ask: () => Promise<T | undefined | false>, limitMs = 30_000): Promise<T> {
  const endMs = Date.now() + limitMs;
  for (;;) {
    const answer = await ask();
    if (answer !== undefined && answer !== false) return answer;
    if (Date.now() > endMs) throw new Error(`did not come to hold within ${limitMs} ms`);
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}
