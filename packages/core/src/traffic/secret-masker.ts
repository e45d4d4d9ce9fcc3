import type { Exchange } from './exchange.js';
import { createSecretWords, isSecretShape, type SecretWords } from './secret-words.js';
import { maskText } from './shape-mask.js';

/** Shorter secrets are masked where they stand, not wherever the same letters appear. */
const SHORTEST_TRACED = 8;

/**
 * Masks the secrets of one take. What is a secret at one place is masked everywhere: the token that a login issued and a
 * later header carried reads the same, masked, in both.
 */
export class SecretMasker {
  readonly #key: Uint8Array;
  readonly #words: SecretWords;
  readonly #traced = new Map<string, string>();
  /** Names of the places where secrets were found, with how many. */
  readonly #places = new Map<string, number>();

  constructor(key: Uint8Array, moreNames: readonly string[] = []) {
    this.#key = key;
    this.#words = createSecretWords(moreNames);
  }

  /** Where secrets were found so far: `header authorization`, `json password`. */
  places(): { readonly place: string; readonly count: number }[] {
    return [...this.#places].map(([place, count]) => ({ place, count }));
  }

  /** Looks for secrets in an exchange; gives those that were not known before. */
  learn(exchange: Exchange): readonly string[] {
    const before = this.#traced.size;
    this.#mask(exchange);
    return [...this.#traced.keys()].slice(before);
  }

  /** The exchange with every secret masked; the same object when there is none. */
  mask(exchange: Exchange): Exchange {
    this.#mask(exchange);
    return this.#mask(exchange, true);
  }

  /** A masked exchange with secrets that were learnt since masked, too; the same object when there are none in it. */
  retrace(exchange: Exchange): Exchange {
    const path = this.#trace(exchange.path);
    const query = exchange.query.map(([name, value]) => [name, this.#trace(value)] as const);
    const requestHeaders = exchange.requestHeaders.map((value) => this.#trace(value));
    const responseHeaders = exchange.responseHeaders.map((value) => this.#trace(value));
    const requestBody = exchange.requestBody === null ? null : this.#trace(exchange.requestBody);
    const body =
      exchange.body?.kind === 'text'
        ? { kind: 'text' as const, content: this.#trace(exchange.body.content) }
        : exchange.body;
    const traced = { ...exchange, path, query, requestHeaders, requestBody, responseHeaders, body };
    return JSON.stringify(traced) === JSON.stringify(exchange) ? exchange : traced;
  }

  #mask(exchange: Exchange, isFinal = false): Exchange {
    const requestHeaders = this.#headers(exchange.requestHeaders, isFinal);
    const responseHeaders = this.#headers(exchange.responseHeaders, isFinal);
    const query = exchange.query.map(([name, value]) => [name, this.#named('query', name, value, isFinal)] as const);
    const requestBody = exchange.requestBody === null ? null : this.#text(exchange.requestBody, isFinal);
    const body =
      exchange.body?.kind === 'text'
        ? { kind: 'text' as const, content: this.#text(exchange.body.content, isFinal) }
        : exchange.body;
    const path = isFinal ? this.#trace(exchange.path) : exchange.path;
    return { ...exchange, path, query, requestHeaders, requestBody, responseHeaders, body };
  }

  #headers(flat: readonly string[], isFinal: boolean): readonly string[] {
    return flat.map((value, i) => {
      if (i % 2 === 0) return value;
      const name = (flat[i - 1] ?? '').toLowerCase();
      if (!this.#words.isSecretHeader(name)) return isFinal ? this.#trace(value) : value;
      if (name === 'cookie')
        return value.replace(
          /([^=;\s]+=)([^;]*)/g,
          (_all, key: string, secret: string) => key + this.#secret('cookie', secret, isFinal),
        );
      if (name === 'set-cookie')
        return value.replace(
          /^([^=;]*=)([^;]*)/,
          (_all, key: string, secret: string) => key + this.#secret('cookie', secret, isFinal),
        );
      const scheme = /^[A-Za-z][\w-]* (?=\S)/.exec(value)?.[0] ?? '';
      return scheme + this.#secret(`header ${name}`, value.slice(scheme.length), isFinal);
    });
  }

  #named(group: string, name: string, value: string, isFinal: boolean): string {
    if (this.#words.isSecretName(name) || isSecretShape(value)) return this.#secret(`${group} ${name}`, value, isFinal);
    return isFinal ? this.#trace(value) : value;
  }

  /** A body: JSON by its members, a form by its fields, other text by what is known to be secret. */
  #text(text: string, isFinal: boolean): string {
    const json = parse(text);
    if (json !== undefined) {
      const masked = this.#json(json, '', isFinal);
      return masked.isTouched ? JSON.stringify(masked.value) : text;
    }
    if (!FORM.test(text)) return isFinal ? this.#trace(text) : text;
    return text
      .split('&')
      .map((pair) => {
        const equals = pair.indexOf('=');
        const name = decode(pair.slice(0, equals));
        const value = decode(pair.slice(equals + 1));
        const masked = this.#named('form', name, value, isFinal);
        return masked === value ? pair : `${pair.slice(0, equals + 1)}${encodeURIComponent(masked)}`;
      })
      .join('&');
  }

  #json(value: unknown, name: string, isFinal: boolean): { value: unknown; isTouched: boolean } {
    if (typeof value === 'string') {
      const masked = this.#named('json', name, value, isFinal);
      return { value: masked, isTouched: masked !== value };
    }
    if (typeof value === 'number' && (this.#words.isSecretName(name) || isSecretShape(String(value)))) {
      return { value: Number(this.#secret(`json ${name}`, String(value), isFinal)), isTouched: true };
    }
    if (value === null || typeof value !== 'object') return { value, isTouched: false };
    const entries = Array.isArray(value)
      ? value.map((item) => ['', this.#json(item, name, isFinal)] as const)
      : Object.entries(value).map(([key, member]) => [key, this.#json(member, key, isFinal)] as const);
    if (!entries.some(([, item]) => item.isTouched)) return { value, isTouched: false };
    const masked = Array.isArray(value)
      ? entries.map(([, item]) => item.value)
      : Object.fromEntries(entries.map(([key, item]) => [key, item.value]));
    return { value: masked, isTouched: true };
  }

  #secret(place: string, secret: string, isFinal: boolean): string {
    if (secret.trim() === '') return secret;
    if (isFinal) this.#places.set(place, (this.#places.get(place) ?? 0) + 1);
    if (secret.length >= SHORTEST_TRACED && !this.#traced.has(secret))
      this.#traced.set(secret, maskText(secret, this.#key));
    if (!isFinal) return secret;
    return this.#traced.get(secret) ?? maskText(secret, this.#key);
  }

  /** Masks secrets known from elsewhere that stand in this text. */
  #trace(text: string): string {
    let masked = text;
    for (const [secret, mask] of this.#traced)
      if (masked.includes(secret)) masked = masked.replaceAll(secret, () => mask);
    return masked;
  }
}

const FORM = /^[^=&\s{}<>]+=[^&\s]*(&[^=&\s]+=[^&\s]*)*$/;

function parse(text: string): unknown {
  const first = text.trimStart()[0];
  if (first !== '{' && first !== '[' && first !== '"') return undefined;
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

function decode(text: string): string {
  try {
    return decodeURIComponent(text.replaceAll('+', ' '));
  } catch {
    return text;
  }
}

/** All exchanges of one source masked under one key: secrets are looked for in all of them first. */
export function maskExchanges(exchanges: readonly Exchange[], masker: SecretMasker): Exchange[] {
  for (const exchange of exchanges) masker.learn(exchange);
  return exchanges.map((exchange) => masker.mask(exchange));
}
