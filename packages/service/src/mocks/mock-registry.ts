import { isDeepStrictEqual } from 'node:util';
import {
  AppError,
  type BesideFiles,
  type CompiledService,
  compileUpset,
  isRelayed,
  type LaneClocks,
  loadService,
  type UpsetDefinition,
} from '@upsetter/core';
import { type ListenerOptions, type MockContext, type MockListener, openMockListener } from '@upsetter/engine';
import type { Store, StoredRevision } from '@upsetter/store';
import type { AuthorityKeeper } from '../authority/authority-keeper.js';
import { refuseHost } from '../outgoing/refuse-host.js';
import { placingMistakes } from './file-mistake.js';
import { KeptPorts } from './kept-ports.js';
import { readListenerOptions } from './listener-options.js';
import { loadGiven } from './loading/load-given.js';
import { Mock, type OnStray } from './mock.js';
import { refuseBrokenKeys } from './refuse-broken-keys.js';

/** What is saved. `files` left out: those of the revision before stay, as far as they are referred to. */
export interface GivenText {
  readonly text: string;
  readonly files?: BesideFiles | undefined;
}

export interface MockRegistryOptions {
  readonly store: Store;
  readonly host: string;
  /** The first port given to a service that names none; 0: always a free one. */
  readonly firstPort: number;
  /** Port of every service, in order from here, whatever their files say; null: as the files say. */
  readonly forcedPort: number | null;
  readonly context: Omit<MockContext, 'current' | 'onHandshakeFailed'>;
  readonly onTrouble: (message: string) => void;
  readonly onStray: OnStray;
  readonly clocks: LaneClocks;
  /** Signs the certificates of mocks that speak TLS. */
  readonly authority: AuthorityKeeper;
  /** Told of each mock that was loaded or saved. */
  readonly onSaved: (mock: Mock) => void;
  /** Hosts beside loopback that strays may be relayed to. */
  readonly allowedHosts: readonly string[];
}

export interface SaveOptions {
  readonly note: string | null;
  /** The revision the change was made from; null: whatever there is. */
  readonly basedOn: number | null;
  /** All lanes begin anew; left out: what they have stays. */
  readonly reset?: boolean;
}

const STOP_GRACE_MS = 3_000;

/** All mocks of this process: loads, saves, opens and closes them. Saves of one service come one after the other. */
export class MockRegistry {
  readonly #options: MockRegistryOptions;
  readonly #mocks = new Map<string, Mock>();
  /** By service: the last of its changes that are on their way. */
  readonly #saving = new Map<string, Promise<unknown>>();
  #nextForcedPort: number | null;
  readonly #ports: KeptPorts;

  constructor(options: MockRegistryOptions) {
    this.#options = options;
    this.#nextForcedPort = options.forcedPort;
    this.#ports = new KeptPorts(options.store.services, options.onTrouble);
  }

  /** Opens every saved service: those first that name their port, then those that had one. One whose port is taken is listed with its trouble; the others go on. */
  async loadAll(): Promise<void> {
    for (const saved of await this.#options.store.services.list()) {
      const loaded = loadService(saved.file, saved.files);
      if (loaded.kind === 'refused') {
        const [first] = loaded.problems;
        this.#options.onTrouble(
          `${saved.service} (revision ${saved.revision}) is kept but not served: line ${first?.line}: ${first?.message}`,
        );
        continue;
      }
      const mock = new Mock(
        saved,
        { ...loaded.service, name: saved.service },
        this.#options.onStray,
        this.#options.clocks,
      );
      this.#mocks.set(saved.service, mock);
      this.#options.onSaved(mock);
    }
    await this.#ports.load();
    const rank = ({ name, live }: Mock): number =>
      live.compiled.definition.listen?.port !== undefined ? 0 : this.#ports.has(name) ? 1 : 2;
    for (const mock of [...this.list()].sort((a, b) => rank(a) - rank(b))) {
      await this.#open(mock).catch((error: Error) => {
        mock.trouble = error.message;
        this.#options.onTrouble(`${mock.name} does not listen: ${error.message}`);
      });
    }
  }

  list(): readonly Mock[] {
    return [...this.#mocks.values()].sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  /** Fails with `service-unknown`. */
  get(name: string): Mock {
    const mock = this.#mocks.get(name);
    if (mock === undefined) throw new AppError('service-unknown', `there is no service ${name}`);
    return mock;
  }

  /** Saves a file as the service's next revision and swaps it in. A refused file, a taken port or a lost store changes nothing. */
  save(
    name: string,
    given: GivenText,
    options: SaveOptions,
  ): Promise<{ mock: Mock; created: boolean; changed: boolean }> {
    return this.#inTurn(name, () => placingMistakes(given.text, () => this.#save(name, given, options)));
  }

  async #save(
    name: string,
    { text: file, files: given }: GivenText,
    options: SaveOptions,
  ): Promise<{ mock: Mock; created: boolean; changed: boolean }> {
    const { service: loaded, files } = await loadGiven(file, given ?? this.#mocks.get(name)?.saved.files ?? {});
    // Versions of a service stand side by side as NAME@VERSION.
    if (name !== loaded.name && name !== `${loaded.name}@${loaded.definition.version}`)
      throw new AppError('request-refused', `the file is of the service ${loaded.name}, not of ${name}`);
    const compiled = { ...loaded, name };
    this.#refuseUpstream(compiled);
    refuseBrokenKeys(compiled);
    const before = this.#mocks.get(name);
    if (options.basedOn !== null && options.basedOn !== (before?.saved.revision ?? 0)) {
      throw new AppError(
        'changed-since',
        `${name} is at revision ${before?.saved.revision ?? 0}, your change is based on ${options.basedOn}`,
      );
    }
    if (before !== undefined && before.saved.file === file && isDeepStrictEqual(before.saved.files, files)) {
      before.keptRows = [];
      if (options.reset === true) before.replace(before.saved, before.live.compiled, true);
      if (before.listener === null) await this.#open(before);
      return { mock: before, created: false, changed: false };
    }
    const last = before?.saved.revision ?? (await this.#options.store.services.history(name))[0]?.revision ?? 0;
    const saved: StoredRevision = {
      service: name,
      revision: last + 1,
      file,
      files,
      note: options.note,
      savedAtMs: Date.now(),
    };
    const mock =
      before === undefined
        ? await this.#create(saved, compiled)
        : await this.#change(before, saved, compiled, options.reset === true);
    this.#options.onSaved(mock);
    return { mock, created: before === undefined, changed: true };
  }

  #refuseUpstream({ definition: { strays = 'answer', upstream, operations } }: CompiledService): void {
    if (upstream === undefined) return;
    const isAnswer = Object.values(operations).some(({ cases }) => cases.some(({ answer }) => isRelayed(answer)));
    if (strays !== 'answer') refuseHost(upstream, this.#options.allowedHosts, 'strays may not be relayed to');
    else if (isAnswer) refuseHost(upstream, this.#options.allowedHosts, 'answers may not be relayed from');
  }

  async #create(saved: StoredRevision, compiled: CompiledService): Promise<Mock> {
    const mock = new Mock(saved, compiled, this.#options.onStray, this.#options.clocks);
    await this.#open(mock);
    try {
      await this.#options.store.services.save(saved);
    } catch (error) {
      await mock.listener?.stop(0);
      throw error;
    }
    this.#mocks.set(saved.service, mock);
    return mock;
  }

  async #change(mock: Mock, saved: StoredRevision, compiled: CompiledService, reset: boolean): Promise<Mock> {
    const { listen } = compiled.definition;
    const before = mock.live.compiled.definition.listen;
    const wanted = listen?.port ?? null;
    const isSamePort = wanted === (before?.port ?? null) || wanted === mock.listener?.port;
    const isSpokenSame = isDeepStrictEqual([listen?.tls, listen?.http2], [before?.tls, before?.http2]);
    if (isSamePort && isSpokenSame && mock.listener !== null) {
      await this.#options.store.services.save(saved);
      mock.replace(saved, compiled, reset);
      return mock;
    }
    const options = await readListenerOptions(listen, this.#options.authority);
    const old = mock.listener;
    if (isSamePort && old !== null) {
      await this.#options.store.services.save(saved);
      mock.replace(saved, compiled, reset);
      mock.listener = null;
      await this.#reopen(old, mock, options).then(
        (reopened) => {
          mock.listener = reopened;
        },
        (error: Error) => {
          mock.trouble = error.message;
        },
      );
      return mock;
    }
    const next = await this.#openListener(wanted, mock, options);
    try {
      await this.#options.store.services.save(saved);
    } catch (error) {
      await next.stop(0);
      throw error;
    }
    mock.replace(saved, compiled, reset);
    mock.listener = next;
    mock.trouble = null;
    void old?.stop(STOP_GRACE_MS);
    return mock;
  }

  /** The same port, where something else is spoken now: the old listener lets go of it first. */
  async #reopen(old: MockListener, mock: Mock, options: ListenerOptions): Promise<MockListener> {
    void old.stop(STOP_GRACE_MS);
    const context = this.#contextOf(mock);
    return openMockListener(this.#options.host, old.port, context, options);
  }

  /** Removes a service: it no longer listens; its calls and revisions are kept, so that they can be explained. */
  remove(name: string): Promise<void> {
    return this.#inTurn(name, () => this.#remove(name));
  }

  #inTurn<T>(name: string, work: () => Promise<T>): Promise<T> {
    const result = (this.#saving.get(name) ?? Promise.resolve()).then(work);
    const settled = result
      .catch(() => {})
      .then(() => {
        if (this.#saving.get(name) === settled) this.#saving.delete(name);
      });
    this.#saving.set(name, settled);
    return result;
  }

  async #remove(name: string): Promise<void> {
    const mock = this.get(name);
    const revision = mock.saved.revision + 1;
    await this.#options.store.services.save({
      service: name,
      revision,
      file: '',
      files: {},
      note: 'removed',
      savedAtMs: Date.now(),
    });
    this.#mocks.delete(name);
    await this.#ports.keep(name, null);
    mock.closeRelay();
    await mock.listener?.stop(STOP_GRACE_MS);
    await this.#options.context.callbacks.stop(name);
  }

  /** Switches an upset on, at once. Fails with `request-refused` when it does not fit the service. */
  putUpset(name: string, definition: UpsetDefinition): void {
    const mock = this.get(name);
    const mistakes: string[] = [];
    const operations = mock.live.compiled.operations.map((operation) => operation.name);
    const compiled = compileUpset(definition, operations, [], (message) => mistakes.push(message));
    if (mistakes.length > 0) throw new AppError('request-refused', mistakes.join('; '));
    mock.putUpset(compiled);
  }

  async stop(): Promise<void> {
    await Promise.all(this.list().map((mock) => mock.listener?.stop(STOP_GRACE_MS)));
    await this.#options.context.callbacks.stop(null);
  }

  #contextOf(mock: Mock): MockContext {
    return {
      ...this.#options.context,
      current: () => mock.live,
      onHandshakeFailed: (failure) => mock.refused.add(failure),
    };
  }

  async #open(mock: Mock): Promise<void> {
    const { listen } = mock.live.compiled.definition;
    const options = await readListenerOptions(listen, this.#options.authority);
    mock.listener = await this.#openListener(listen?.port ?? null, mock, options);
    mock.trouble = null;
  }

  async #openListener(port: number | null, mock: Mock, options: ListenerOptions): Promise<MockListener> {
    const context = this.#contextOf(mock);
    const { host, firstPort } = this.#options;
    if (this.#nextForcedPort !== null) {
      const forced = this.#nextForcedPort;
      if (forced > 0) this.#nextForcedPort = forced + 1;
      return openMockListener(host, forced, context, options);
    }
    if (port !== null || firstPort === 0) return openMockListener(host, port ?? 0, context, options);
    const taken = this.list().map((other) => other.live.compiled.definition.listen?.port ?? other.listener?.port);
    for (const tried of this.#ports.toTry(mock.name, firstPort, taken)) {
      const listener = await openMockListener(host, tried, context, options).catch(() => null);
      if (listener === null) continue;
      await this.#ports.keep(mock.name, listener.port);
      return listener;
    }
    return openMockListener(host, 0, context, options);
  }
}
