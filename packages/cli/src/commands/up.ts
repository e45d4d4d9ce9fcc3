import { AppError } from '@upsetter/core';
import { startUpsetter } from '@upsetter/service';
import { EXIT } from '../exit.js';
import { print, tell } from '../output/terminal.js';
import { COMMON, readPort, readSize, untilEnded, writeReadyFile } from './start.js';

export interface UpOptions {
  readonly database?: string;
  readonly host: string;
  readonly port: string;
  readonly mockPorts: string;
  readonly maxBody?: string;
  readonly ready?: string;
  readonly allow?: string[];
  readonly verbose?: boolean;
}

/** The long-running service on PostgreSQL, until SIGINT or SIGTERM; then calls still waiting are written. */
export async function up(options: UpOptions): Promise<number> {
  const databaseUrl = options.database ?? process.env['UPSETTER_DATABASE_URL'];
  if (databaseUrl === undefined) {
    throw new AppError(
      'wrong-use',
      'no database is named: give --database URL or UPSETTER_DATABASE_URL (scripts/pg.sh start prints one). Without a database: upsetter run FILE',
    );
  }
  const upsetter = await startUpsetter({
    ...COMMON,
    databaseUrl,
    host: options.host,
    port: readPort('--port', options.port),
    firstMockPort: readPort('--mock-ports', options.mockPorts),
    forcedMockPort: null,
    maxBodyBytes: readSize(options.maxBody),
    allowedHosts: options.allow ?? [],
    logLevel: options.verbose === true ? 'info' : 'warn',
  });
  const ended = untilEnded();
  const services = upsetter.mocks
    .list()
    .map((mock) => ({ name: mock.name, address: mock.listener?.address ?? null, trouble: mock.trouble }));
  print(`console  ${upsetter.address}`);
  for (const { name, address, trouble } of services) print(`mock     ${address ?? trouble}  ${name}`);
  if (options.ready !== undefined) {
    const addresses = Object.fromEntries(services.map(({ name, address }) => [name, address]));
    await writeReadyFile(options.ready, { control: upsetter.address, services: addresses });
  }
  await ended;
  const unwritten = await upsetter.stop();
  if (unwritten > 0) tell(`${unwritten} calls could not be written: the database was away`);
  return EXIT.done;
}
