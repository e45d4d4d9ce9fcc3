import type { Store } from '@upsetter/store';

const MOST_TRIED = 200;

/** Where services are whose files name no port: at the same one after a restart, whatever came beside them. */
export class KeptPorts {
  readonly #store: Store['services'];
  readonly #onTrouble: (message: string) => void;
  #ports = new Map<string, number>();

  constructor(store: Store['services'], onTrouble: (message: string) => void) {
    this.#store = store;
    this.#onTrouble = onTrouble;
  }

  async load(): Promise<void> {
    this.#ports = new Map(await this.#store.ports());
  }

  has(service: string): boolean {
    return this.#ports.has(service);
  }

  /** The port that the service had, then those from `first` on that no other has. */
  *toTry(service: string, first: number, taken: readonly (number | undefined)[]): Generator<number, void, undefined> {
    const own = this.#ports.get(service);
    if (own !== undefined) yield own;
    const others = new Set([...taken, ...this.#ports.values()]);
    for (let tried = first; tried < first + MOST_TRIED; tried++) if (!others.has(tried)) yield tried;
  }

  /** Null: the service has none any more. Fails never: without a store the service is there all the same, only at another port after a restart. */
  async keep(service: string, port: number | null): Promise<void> {
    if (port === (this.#ports.get(service) ?? null)) return;
    if (port === null) this.#ports.delete(service);
    else this.#ports.set(service, port);
    await this.#store.keepPort(service, port).catch((error: Error) => {
      this.#onTrouble(`the port of ${service} could not be kept: ${error.message}`);
    });
  }
}
