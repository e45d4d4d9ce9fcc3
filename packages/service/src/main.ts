import type { AddressInfo } from 'node:net';
import { AppError, LaneClocks } from '@upsetter/core';
import { CallbackSender } from '@upsetter/engine';
import { type CallWriter, createCallWriter, createMemoryStore, createPostgresStore, type Store } from '@upsetter/store';
import type { FastifyInstance } from 'fastify';
import { type Logger, pino } from 'pino';
import { AuthorityKeeper } from './authority/authority-keeper.js';
import { ServiceCallLog } from './calls/service-call-log.js';
import { ContractReports } from './contracts/contract-reports.js';
import { FeedRegistry } from './feeds/feed-registry.js';
import type { ApiContext } from './http/context.js';
import { createApp } from './http/create-app.js';
import { LaneRegistry } from './lanes/lane-registry.js';
import { MockRegistry } from './mocks/mock-registry.js';
import { refusalOf } from './outgoing/refuse-host.js';
import { TakeRegistry } from './takes/take-registry.js';
import { TrialRegistry } from './trials/trial-registry.js';

export interface UpsetterOptions {
  /** PostgreSQL's URL; null: everything in memory. */
  readonly databaseUrl: string | null;
  readonly host: string;
  /** Port of the control plane; 0: a free one. */
  readonly port: number;
  readonly firstMockPort: number;
  readonly forcedMockPort: number | null;
  readonly maxBodyBytes: number;
  /** Calls kept in memory; null: as many as usual. */
  readonly keptCalls: number | null;
  readonly consoleDir: string | null;
  /** Where what belongs to this machine is kept: Upsetter's own authority. */
  readonly homeDir: string;
  /** Hosts beside loopback that strays may be relayed to, trials may call, and feeds may fetch from. */
  readonly allowedHosts: readonly string[];
  readonly logLevel: 'silent' | 'error' | 'warn' | 'info';
  readonly version: string;
}

export interface RunningUpsetter {
  readonly address: string;
  readonly mocks: MockRegistry;
  /** Ends everything: mocks first, then what calls still wait to be written. Gives how many could not be. Safe to repeat. */
  readonly stop: () => Promise<number>;
}

const MOST_WAITING_CALLS = 100_000;
const DRAIN_MS = 10_000;
const NOTHING_WAITS = { waiting: 0, givenUp: 0, storeAway: false };
const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|::1)$/;

/** Starts the service: store, call log, mocks, control plane, in this order. Fails with `store-unavailable`, `store-in-use`, `port-in-use` or `address-refused`. */
export async function startUpsetter(options: UpsetterOptions): Promise<RunningUpsetter> {
  if (!LOOPBACK.test(options.host))
    throw new AppError(
      'address-refused',
      `${options.host} is not loopback; serving others needs access keys, which are not supported yet`,
    );
  const logger = pino({ level: options.logLevel }, pino.destination({ dest: 2, sync: true }));
  const onTrouble = (message: string): void => logger.warn(message);
  const store =
    options.databaseUrl === null ? createMemoryStore() : createPostgresStore({ url: options.databaseUrl, onTrouble });
  await store.start();
  const writer =
    store.calls === null ? null : createCallWriter(store.calls, { mostWaiting: MOST_WAITING_CALLS, onTrouble });
  const context = compose(options, store, writer, logger);
  const { mocks, takes, feeds } = context;
  const app = await createApp(context, logger);
  try {
    await mocks.loadAll();
    await takes.loadAll();
    await feeds.loadAll();
    await listen(app, options.host, options.port);
  } catch (error) {
    await stopAll({ ...context, app, writer });
    throw error;
  }
  let stopping: Promise<number> | null = null;
  const port = (app.server.address() as AddressInfo).port;
  return {
    address: `http://${options.host}:${port}`,
    mocks,
    stop: () => {
      stopping ??= stopAll({ ...context, app, writer });
      return stopping;
    },
  };
}

/** What the service is made of, put together; nothing is opened or loaded yet. */
function compose(options: UpsetterOptions, store: Store, writer: CallWriter | null, logger: Logger): ApiContext {
  const onTrouble = (message: string): void => logger.warn(message);
  const { allowedHosts } = options;
  const log = new ServiceCallLog(store.calls, writer, options.keptCalls);
  const authority = new AuthorityKeeper(options.homeDir);
  const takes = new TakeRegistry(store.takes, options.host, authority);
  const reports = new ContractReports(onTrouble);
  const callbacks = new CallbackSender({
    refuse: (url) => refusalOf(url.href, allowedHosts, 'callbacks may not go to'),
    onChange: (record) => log.changed(record),
  });
  const clocks = new LaneClocks();
  const mocks = new MockRegistry({
    clocks,
    authority,
    onSaved: (mock) => reports.refresh(mock),
    allowedHosts,
    onStray: (service, upstream, call) => {
      takes
        .hearStray(service, upstream, (order) => ({ ...call, order }))
        .catch((error: Error) => onTrouble(`a stray of ${service} could not be recorded: ${error.message}`));
    },
    store,
    host: options.host,
    firstPort: options.firstMockPort,
    forcedPort: options.forcedMockPort,
    onTrouble,
    context: { log, callbacks, maxBodyBytes: options.maxBodyBytes, onFault: (error) => logger.error(error) },
  });
  return {
    store,
    mocks,
    lanes: new LaneRegistry(mocks, clocks, callbacks),
    takes,
    reports,
    trials: new TrialRegistry(store.trials, allowedHosts, onTrouble),
    feeds: new FeedRegistry(store.feeds, mocks, allowedHosts, onTrouble),
    authority,
    log,
    writerState: () => writer?.state() ?? NOTHING_WAITS,
    startedAtMs: Date.now(),
    version: options.version,
    consoleDir: options.consoleDir,
  };
}

async function listen(app: FastifyInstance, host: string, port: number): Promise<void> {
  try {
    await app.listen({ host, port });
  } catch (error) {
    const isTaken = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
    throw isTaken
      ? new AppError(
          'port-in-use',
          `the control port ${port} on ${host} is taken: is the service running already?`,
          { port },
          error,
        )
      : error;
  }
}

async function stopAll({
  app,
  mocks,
  lanes,
  takes,
  trials,
  feeds,
  reports,
  writer,
  store,
}: Pick<ApiContext, 'mocks' | 'lanes' | 'takes' | 'trials' | 'feeds' | 'reports' | 'store'> & {
  readonly app: FastifyInstance;
  readonly writer: CallWriter | null;
}): Promise<number> {
  lanes.stop();
  await mocks.stop();
  await takes.stopAll();
  await feeds.stopAll();
  await trials.stopAll();
  await app.close();
  await reports.stop();
  const unwritten = (await writer?.drain(DRAIN_MS)) ?? 0;
  await store.stop();
  return unwritten;
}
