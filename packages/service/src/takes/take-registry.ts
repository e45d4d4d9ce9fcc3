import { AppError, type Exchange } from '@upsetter/core';
import type { RelayedCall } from '@upsetter/engine';
import type { StoredTake, TakeRepository } from '@upsetter/store';
import type { AuthorityKeeper } from '../authority/authority-keeper.js';
import { type Hearing, openTakeListener } from './open-take-listener.js';
import { OpenTake } from './take.js';

export interface TakeStart {
  readonly name: string;
  /** How it is heard. */
  readonly hearing: Hearing;
  /** 0: any free port. */
  readonly port: number;
  readonly masks: readonly string[];
}

export interface TakeView extends StoredTake {
  /** Where the relay listens while the take is open. */
  readonly address: string | null;
  readonly exchanges: number;
}

const STOP_GRACE_MS = 3_000;
const PAGE = 1_000;

/** All takes of this process and its store. */
export class TakeRegistry {
  readonly #store: TakeRepository;
  readonly #host: string;
  readonly #authority: AuthorityKeeper;
  readonly #open = new Map<string, OpenTake>();

  constructor(store: TakeRepository, host: string, authority: AuthorityKeeper) {
    this.#store = store;
    this.#host = host;
    this.#authority = authority;
  }

  /** Takes that were open when the process before this one ended are closed. */
  async loadAll(): Promise<void> {
    for (const take of await this.#store.list()) {
      if (take.state === 'open')
        await this.#store.save({ ...take, state: 'closed', trouble: 'the service ended while this take was open' });
    }
  }

  /** Opens a relay or a proxy and hears what passes. Fails with `take-known`, `port-in-use`, `authority-unusable` or `request-refused`. */
  async start(start: TakeStart): Promise<TakeView> {
    const known = await this.#store.list();
    if (known.some(({ name }) => name === start.name))
      throw new AppError('take-known', `there is a take ${start.name} already`);
    const { hearing } = start;
    const upstream = hearing.kind === 'relay' ? hearing.from : null;
    const take = new OpenTake({ name: start.name, source: hearing.kind, upstream, masks: start.masks }, this.#store);
    take.listener = await openTakeListener(this.#host, start.port, hearing, take, this.#authority);
    try {
      await this.#store.save(take.view(null));
    } catch (error) {
      await take.listener.stop(0);
      throw error;
    }
    this.#open.set(take.name, take);
    return this.#viewOpen(take);
  }

  /** Hears a stray that a mock relayed: in the take that is open for its service, else in a new one. Gives the take's name. */
  async hearStray(service: string, upstreamUrl: string, makeCall: (order: number) => RelayedCall): Promise<string> {
    const take = this.#open.get(service) ?? (await this.#openForService(service, upstreamUrl));
    take.hear(makeCall(take.nextOrder()));
    return take.name;
  }

  async #openForService(service: string, url: string): Promise<OpenTake> {
    const taken = new Set((await this.#store.list()).map(({ name }) => name));
    let name = service;
    for (let n = 2; taken.has(name); n++) name = `${service}-${n}`;
    const again = this.#open.get(service);
    if (again !== undefined) return again;
    const take = new OpenTake({ name, source: 'service', upstream: url, masks: [] }, this.#store);
    this.#open.set(service, take);
    await this.#store.save(take.view(null));
    return take;
  }

  /** Closes a take; what was heard stays. Fails with `take-unknown`, `take-closed` or `store-unavailable`. */
  async stop(name: string): Promise<TakeView> {
    const found = [...this.#open].find(([, take]) => take.name === name);
    if (found === undefined) {
      const closed = await this.find(name);
      throw new AppError('take-closed', `${closed.name} is closed already`);
    }
    const [key, take] = found;
    await take.listener?.stop(STOP_GRACE_MS);
    await take.write();
    const closed = take.view(Date.now());
    if (take.unwritten > 0)
      throw new AppError('store-unavailable', closed.trouble ?? 'not all that was heard is written');
    await this.#store.save(closed);
    this.#open.delete(key);
    return { ...closed, address: null, exchanges: take.size };
  }

  async list(): Promise<TakeView[]> {
    const [takes, counts] = await Promise.all([this.#store.list(), this.#store.counts()]);
    return takes.map((take) => {
      const open = this.#findOpen(take.name);
      return open === null ? { ...take, address: null, exchanges: counts.get(take.name) ?? 0 } : this.#viewOpen(open);
    });
  }

  /** Fails with `take-unknown`. */
  async find(name: string): Promise<TakeView> {
    const take = (await this.list()).find((item) => item.name === name);
    if (take === undefined) throw new AppError('take-unknown', `there is no take ${name}`);
    return take;
  }

  async remove(name: string): Promise<void> {
    const take = await this.find(name);
    if (take.state === 'open') await this.stop(name);
    await this.#store.remove(name);
  }

  /** Exchanges in order, those after an index. Fails with `take-unknown`. */
  async exchanges(name: string, after: number, limit: number): Promise<readonly Exchange[]> {
    const open = this.#findOpen(name);
    if (open !== null) return open.exchanges(after, limit);
    await this.find(name);
    return this.#store.exchanges(name, after, limit);
  }

  /** Everything of one or several takes, put together in order of time and numbered anew when they are several. */
  async allExchanges(names: readonly string[]): Promise<readonly Exchange[]> {
    const parts: (readonly Exchange[])[] = [];
    for (const name of names) parts.push(await this.#whole(name));
    const [only = []] = parts;
    if (parts.length === 1) return only;
    const together = parts.flat().sort((a, b) => a.startedAtMs - b.startedAtMs);
    return together.map((exchange, index) => ({ ...exchange, index }));
  }

  async #whole(name: string): Promise<readonly Exchange[]> {
    const all: Exchange[] = [];
    for (;;) {
      const page = await this.exchanges(name, all.at(-1)?.index ?? -1, PAGE);
      all.push(...page);
      if (page.length < PAGE) return all;
    }
  }

  /** Closes what is open; what cannot be written is lost. */
  async stopAll(): Promise<void> {
    for (const take of [...this.#open.values()]) await this.stop(take.name).catch(() => {});
  }

  #findOpen(name: string): OpenTake | null {
    return [...this.#open.values()].find((take) => take.name === name) ?? null;
  }

  #viewOpen(take: OpenTake): TakeView {
    return { ...take.view(null), address: take.listener?.address ?? null, exchanges: take.size };
  }
}
