import { type Document, isMap, isSeq } from 'yaml';
import { checkCases } from '../contract/keeping/check-cases.js';
import type { ContractIndex } from '../contract/keeping/contract-index.js';
import type { BesideFile, ServiceText } from '../definition/beside/service-text.js';
import { filesOf, splitBodies, withReferences } from '../definition/beside/split-bodies.js';
import { insertEntry, insertItems } from '../definition/insert-block.js';
import type { Lexicon } from '../definition/lexicon.js';
import { requireService } from '../definition/load-service.js';
import { TextEdit } from '../definition/text-edit.js';
import type { CompiledService } from '../matching/compile-service.js';
import type { WantedPart } from '../wire/contract-view.js';
import { draftIndexed } from './draft-indexed.js';
import { operationName } from './operation-name.js';
import { uniqueName } from './unique-name.js';

export interface CompletedService extends ServiceText {
  /** `readNeighbours`, `readBerth / 404` */
  readonly added: readonly string[];
}

/**
 * A service file with what its contract has and it has not: operations that are missing, and cases for responses that no
 * case answers with. What is there stays as it is, comments included. `wanted` null: everything. Fails with `file-refused`.
 */
export function completeService(given: ServiceText, index: ContractIndex, wanted: WantedPart | null): CompletedService {
  const service = requireService(given.text, given.files);
  const completion = new Completion(given, service, index);
  const { missing, incomplete } = checkCases(service, index);
  for (const { operation, code } of incomplete)
    if (wanted === null || (wanted.kind === 'response' && wanted.operation === operation && wanted.code === code))
      completion.addResponse(operation, code);
  for (const { on } of missing)
    if (wanted === null || (wanted.kind === 'operation' && wanted.on === on)) completion.addOperation(on);
  return completion.result();
}

class Completion {
  readonly #service: CompiledService;
  readonly #index: ContractIndex;
  #text: string;
  readonly #files: Record<string, BesideFile>;
  readonly #names: Set<string>;
  readonly #added: string[] = [];

  constructor(given: ServiceText, service: CompiledService, index: ContractIndex) {
    this.#service = service;
    this.#index = index;
    this.#text = given.text;
    this.#files = { ...given.files };
    this.#names = new Set(service.operations.map(({ name }) => name));
  }

  /** What is asked for by name goes before what takes everything. */
  addResponse(operation: string, code: string): void {
    const address = this.#service.operations.find(({ name }) => name === operation)?.address;
    const indexed = address === undefined ? null : this.#index.findByAddress(address);
    if (indexed === null) return;
    const taken = new Set(this.#service.definition.operations[operation]?.cases.map((own) => own.case));
    const made = draftIndexed(indexed, this.#lexicon)
      .cases.filter((own) => own.code === code)
      .map(({ definition }) => ({ ...definition, case: uniqueName(String(definition['case']), taken) }));
    const { cases: written } = this.#outline(operation, { cases: made });
    const path = ['operations', operation];
    this.#text =
      insertItems(this.#text, path, 'cases', written) ??
      this.#rewrite((document) => {
        const cases = document.getIn([...path, 'cases']);
        if (isSeq(cases)) cases.items.unshift(...written.map((own) => document.createNode(own)));
      });
    this.#added.push(...made.map((own) => `${operation} / ${own.case}`));
  }

  addOperation(on: string): void {
    const own = this.#index.operations.find((operation) => operation.on === on);
    if (own === undefined) return;
    const name = this.#nameFor(own.id ?? '', on);
    const drafted = draftIndexed(own, this.#lexicon);
    const title = drafted.title === null ? {} : { title: drafted.title };
    const cases = drafted.cases.map(({ definition }) => definition);
    const definition = this.#outline(name, {
      on: typeof drafted.on === 'string' ? this.#withoutBase(drafted.on) : drafted.on,
      ...title,
      cases,
    });
    this.#text =
      insertEntry(this.#text, ['operations'], name, definition) ??
      this.#rewrite((document) => document.setIn(['operations', name], document.createNode(definition)));
    this.#added.push(name);
  }

  result(): CompletedService {
    return { text: this.#text, files: this.#files, added: this.#added };
  }

  /** Where parts cannot be put between what is there. */
  #rewrite(change: (document: Document) => void): string {
    const edit = new TextEdit(this.#text);
    const { document } = edit;
    const operations = document.get('operations');
    if (isMap(operations)) operations.flow = false;
    change(document);
    return edit.write();
  }

  get #lexicon(): Lexicon | null {
    return this.#service.definition.lexicon ?? null;
  }

  #nameFor(id: string, on: string): string {
    const name = /^[A-Za-z_][\w.-]*$/.test(id) && !this.#names.has(id) ? id : operationName(on, this.#names);
    this.#names.add(name);
    return name;
  }

  /** Services that leave the base path of the server out, leave it out here as well. */
  #withoutBase(on: string): string {
    const base = this.#index.basePath;
    const isBased = this.#service.operations.some(({ address }) => address.template.startsWith(`${base}/`));
    const [method = '', path = ''] = on.split(' ');
    const isPlain = base !== '' && !isBased && this.#service.operations.length > 0;
    return `${method} ${isPlain ? path.slice(base.length) : path}`;
  }

  /** Large bodies stand in files of their own. */
  #outline<T extends object>(operation: string, definition: T): T {
    const whole = { operations: { [operation]: definition } };
    const bodies = splitBodies(whole, this.#service.name);
    Object.assign(this.#files, filesOf(bodies));
    return (withReferences(whole, bodies) as typeof whole).operations[operation] as T;
  }
}
