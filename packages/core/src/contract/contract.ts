import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import type { Lexicon } from '../definition/lexicon.js';
import { AppError } from '../errors/app-error.js';
import { type ContractDocument, readContractDocument } from './contract-document.js';

export type Dialect = '2.0' | '3.0' | '3.1';

/** A value of a contract that knows where it stands. */
export interface ContractNode {
  readonly document: ContractDocument;
  readonly path: readonly string[];
  readonly value: unknown;
}

/** A node below another: its path is put together when it is asked for, which is seldom. */
class ChildNode implements ContractNode {
  readonly document: ContractDocument;
  readonly value: unknown;
  readonly #parent: ContractNode;
  readonly #key: string;

  constructor(parent: ContractNode, key: string, value: unknown) {
    this.document = parent.document;
    this.value = value;
    this.#parent = parent;
    this.#key = key;
  }

  get path(): readonly string[] {
    return [...this.#parent.path, this.#key];
  }
}

/** Texts by absolute URL: the documents that a contract's own refers to. */
export type ContractTexts = ReadonlyMap<string, string>;

/** What stands for the address of a document that came without one. */
const NOWHERE = 'contract:/document';
const MOST_HOPS = 100;

/**
 * An OpenAPI 3.0 or 3.1 or Swagger 2.0 contract of one or more documents. References are followed when asked for, never
 * expanded: circles do no harm, and what is not asked for costs nothing but its parsing.
 */
export class Contract {
  readonly dialect: Dialect;
  readonly main: ContractDocument;
  /** The team's words for what is generated; null: there are none. */
  readonly lexicon: Lexicon | null;
  readonly #documents = new Map<string, ContractDocument | null>();
  readonly #texts: ContractTexts;
  readonly #text: string;
  /** Finding a line takes a walk through the document, and calls may ask for the same one again and again. */
  readonly #described = new WeakMap<ContractNode, string>();
  readonly #anchors = new Map<string, ReadonlyMap<string, ContractNode>>();

  /** Fails with `file-refused` or `file-unreadable`. */
  constructor(
    text: string,
    address: string = NOWHERE,
    texts: ContractTexts = new Map(),
    lexicon: Lexicon | null = null,
  ) {
    this.main = readContractDocument(address, text);
    this.lexicon = lexicon;
    this.#text = text;
    this.dialect = readDialect(this.main.root);
    this.#texts = texts;
    this.#documents.set(address, this.main);
  }

  /** The same contract, from which values are generated with these words. */
  withLexicon(lexicon: Lexicon | null): Contract {
    return lexicon === null ? this : new Contract(this.#text, this.main.address, this.#texts, lexicon);
  }

  root(): ContractNode {
    return { document: this.main, path: [], value: this.main.root };
  }

  /** The value under keys, references on the way followed; null when there is none. */
  at(node: ContractNode | null, ...keys: readonly string[]): ContractNode | null {
    let here = node === null ? null : this.resolve(node);
    for (const key of keys) here = here === null ? null : this.resolve(childOf(here, key));
    return here;
  }

  /** The members of a map or the items of a list, as they stand: references in them are not followed. */
  children(node: ContractNode | null): readonly (readonly [key: string, child: ContractNode])[] {
    if (node === null || node.value === null || typeof node.value !== 'object') return [];
    return Object.keys(node.value).flatMap((key) => {
      const child = childOf(node, key);
      return child === null ? [] : [[key, child] as const];
    });
  }

  /** The value at the end of its `$ref`s; null when one leads nowhere. */
  resolve(node: ContractNode | null): ContractNode | null {
    let here = node;
    for (let hop = 0; hop < MOST_HOPS && here !== null; hop++) {
      const ref = refOf(here.value);
      if (ref === null) return here;
      here = this.#follow(here.document, ref);
    }
    return null;
  }

  /** A JSON Pointer with its line: `#/paths/~1berths/get (line 12)`; with its file where that is another one. */
  describe(node: ContractNode): string {
    const described = this.#described.get(node) ?? this.#locate(node);
    this.#described.set(node, described);
    return described;
  }

  #locate({ document, path }: ContractNode): string {
    const file = document === this.main ? '' : (document.address.split('/').at(-1) ?? '');
    const pointer = path.map((key) => key.replaceAll('~', '~0').replaceAll('/', '~1')).join('/');
    return `${file}#/${pointer} (line ${document.line(path)})`;
  }

  /** Why a reference leads nowhere, for people. */
  explainLost({ document, value }: ContractNode): string {
    const ref = refOf(value);
    if (ref === null) return 'a map is expected here';
    const file = ref.split('#', 1)[0] ?? '';
    const address = file === '' ? document.address : resolveAddress(file, document.address);
    if (address !== null && this.#open(address) === null) return `its $ref leads to ${file}, which was not read`;
    return `its $ref leads nowhere: ${ref}`;
  }

  /** The text of a file that a document names, beside its references; null: it was not read. */
  textOf(file: string, { document }: ContractNode): string | null {
    const address = resolveAddress(file, document.address);
    return address === null ? null : (this.#texts.get(address) ?? null);
  }

  #follow(from: ContractDocument, ref: string): ContractNode | null {
    const [file = '', fragment = ''] = ref.split('#', 2);
    const document = file === '' ? from : this.#open(resolveAddress(file, from.address));
    if (document === null) return null;
    const text = decode(fragment);
    const root = { document, path: [], value: document.root };
    if (text === '' || text === '/') return root;
    if (!text.startsWith('/')) return this.#anchorsOf(document).get(text) ?? null;
    let here: ContractNode | null = root;
    for (const token of text.slice(1).split('/')) {
      const key: string = token.replaceAll('~1', '/').replaceAll('~0', '~');
      // Documents point through references, too, though RFC 6901 knows none.
      here = here === null ? null : (childOf(here, key) ?? this.#through(here, key));
    }
    return here;
  }

  #through(node: ContractNode, key: string): ContractNode | null {
    const target = refOf(node.value) === null ? null : this.resolve(node);
    return target === null ? null : childOf(target, key);
  }

  #open(address: string | null): ContractDocument | null {
    if (address === null) return null;
    const known = this.#documents.get(address);
    if (known !== undefined) return known;
    const text = this.#texts.get(address);
    const document = text === undefined ? null : readContractDocument(address, text);
    this.#documents.set(address, document);
    return document;
  }

  /** Where `$anchor`s stand (JSON Schema 2020-12, 8.2.2), looked for when the first one is asked for. */
  #anchorsOf(document: ContractDocument): ReadonlyMap<string, ContractNode> {
    const known = this.#anchors.get(document.address);
    if (known !== undefined) return known;
    const found = new Map<string, ContractNode>();
    const visit = (node: ContractNode): void => {
      if (isJsonMap(node.value) && typeof node.value['$anchor'] === 'string') found.set(node.value['$anchor'], node);
      for (const [, child] of this.children(node)) visit(child);
    };
    visit({ document, path: [], value: document.root });
    this.#anchors.set(document.address, found);
    return found;
  }
}

export function childOf(node: ContractNode, key: string): ContractNode | null {
  const { value } = node;
  if (value === null || typeof value !== 'object' || !Object.hasOwn(value, key)) return null;
  return new ChildNode(node, key, (value as JsonMap)[key]);
}

/** Another value that stands at the same place. */
export function withValue({ document, path }: ContractNode, value: unknown): ContractNode {
  return { document, path, value };
}

export function refOf(value: unknown): string | null {
  return isJsonMap(value) && typeof value['$ref'] === 'string' ? value['$ref'] : null;
}

/** The absolute URL of a reference to a file, without its fragment; null when it is none. */
export function resolveAddress(file: string, base: string): string | null {
  try {
    return new URL(file, base).href;
  } catch {
    return null;
  }
}

/** What a document of a contract leads to, by address. */
export interface Referred {
  /** Parts of the contract. */
  readonly documents: readonly string[];
  /** Examples that stand in files of their own (`externalValue`): they are taken as they are. */
  readonly examples: readonly string[];
}

/** Finding them takes a walk through the whole document, and saving asks for them more than once. */
const found = new WeakMap<ContractDocument, Referred>();

/** What a document refers to, itself left out. */
export function findReferredAddresses(document: ContractDocument): Referred {
  const known = found.get(document);
  if (known !== undefined) return known;
  const { root, address } = document;
  const documents = new Set<string>();
  const examples = new Set<string>();
  const visit = (value: unknown): void => {
    if (value === null || typeof value !== 'object') return;
    const ref = refOf(value);
    if (ref !== null && !ref.startsWith('#')) documents.add(ref.split('#', 1)[0] ?? '');
    const external = (value as { readonly externalValue?: unknown }).externalValue;
    if (typeof external === 'string') examples.add(external);
    for (const child of Object.values(value)) visit(child);
  };
  visit(root);
  const resolve = (files: ReadonlySet<string>): string[] => {
    const addresses = [...files].flatMap((file) => resolveAddress(file, address) ?? []);
    return [...new Set(addresses)].filter((own) => own !== address);
  };
  const referred = { documents: resolve(documents), examples: resolve(examples) };
  found.set(document, referred);
  return referred;
}

function decode(fragment: string): string {
  try {
    return decodeURIComponent(fragment);
  } catch {
    return fragment;
  }
}

function readDialect(root: unknown): Dialect {
  if (!isJsonMap(root)) throw new AppError('file-unreadable', 'not a contract: a map is expected');
  const { openapi, swagger } = root as { readonly openapi?: unknown; readonly swagger?: unknown };
  const version = String(openapi ?? swagger ?? '');
  if (swagger !== undefined && /^2(\.0)?$/.test(version)) return '2.0';
  const found = /^3\.([01])(\.|$)/.exec(version);
  if (openapi !== undefined && found !== null) return found[1] === '0' ? '3.0' : '3.1';
  const said =
    openapi !== undefined ? `\`openapi: ${version}\`` : swagger !== undefined ? `\`swagger: ${version}\`` : 'neither';
  throw new AppError(
    'file-unreadable',
    `an OpenAPI 3.0 or 3.1 or a Swagger 2.0 document is expected; this one says ${said}`,
  );
}
