import { sha256 } from '@noble/hashes/sha2.js';
import { JSONParser } from '@streamparser/json';
import type { Exchange } from './exchange.js';
import { readHarEntry } from './har-entry.js';

/** The exchanges of a HAR file, nothing masked yet, and what cannot be used with the reason. */
export interface ReadHar {
  readonly exchanges: readonly Exchange[];
  readonly unusable: readonly { readonly at: string; readonly reason: string }[];
  /** Of the file: the same file, the same digest. */
  readonly digest: Uint8Array;
}

/**
 * Reads a HAR 1.2 file as it comes: never more than one entry is held as JSON, whatever the length of the file. A file
 * that is broken at some place gives what stands before it.
 */
export class HarReader {
  readonly #parser = new JSONParser({ paths: ['$.log.entries.*'], keepStack: false });
  readonly #exchanges: Exchange[] = [];
  readonly #unusable: { at: string; reason: string }[] = [];
  #trouble: string | null = null;

  constructor() {
    this.#parser.onValue = ({ key, value }) => {
      if (typeof key === 'number') this.#read(value, key);
    };
    this.#parser.onError = (error) => {
      this.#trouble ??= error.message;
    };
  }

  write(bytes: Uint8Array): void {
    if (this.#trouble === null) this.#parser.write(bytes);
  }

  /** `digest`: of the whole file, by whoever reads it. */
  end(digest: Uint8Array): ReadHar {
    if (this.#trouble === null && !this.#parser.isEnded) {
      this.#parser.end();
      if (this.#trouble !== null) this.#trouble = 'it is cut off';
    }
    if (this.#trouble !== null) {
      const read = this.#exchanges.length + this.#unusable.length;
      this.#unusable.push({
        at: read === 0 ? 'the file' : `after log.entries[${read - 1}]`,
        reason: `not JSON: ${this.#trouble}`,
      });
    }
    return { exchanges: this.#exchanges, unusable: this.#unusable, digest };
  }

  #read(entry: unknown, index: number): void {
    const exchange = readHarEntry(entry, index);
    if (typeof exchange === 'string') this.#unusable.push({ at: `log.entries[${index}]`, reason: exchange });
    else this.#exchanges.push(exchange);
  }
}

/** A HAR file that is held as text. */
export function readHar(text: string): ReadHar {
  const reader = new HarReader();
  const bytes = new TextEncoder().encode(text);
  reader.write(bytes);
  return reader.end(sha256(bytes));
}
