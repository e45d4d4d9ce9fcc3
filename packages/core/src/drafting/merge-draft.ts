import { type Document, isMap, isSeq, parseDocument, type YAMLMap, type YAMLSeq } from 'yaml';
import { inlineInto, outlineFrom } from '../definition/beside/move-bodies.js';
import type { BesideFiles, ServiceText } from '../definition/beside/service-text.js';
import { TextEdit } from '../definition/text-edit.js';
import { addressShape, parseOn, type SoapOn } from '../matching/path-template.js';
import { markOf, markParts } from './draft-marks.js';

/** Both are known to be valid: no key is compared with the others again. */
const LOADED = { uniqueKeys: false };

/** What merging a newer draft into a service came to; parts are named `operation / case`, `data NAME`, or an operation. */
export interface MergedDraft {
  readonly text: string;
  readonly files: BesideFiles;
  readonly added: readonly string[];
  readonly changed: readonly string[];
  /** Edited by hand: left as they are. */
  readonly kept: readonly string[];
  /** Edited by hand, and drafted otherwise now, or no more: left as they are, to be looked at. */
  readonly conflicts: readonly string[];
  /** No longer drafted, and as they were drafted: taken away. Only where the draft before is known. */
  readonly removed: readonly string[];
}

/**
 * A newer draft merged into a service file that was drafted before: what is as it was drafted is drafted anew, what was
 * edited by hand stays, what is new is added. Comments stay. Both must be valid; large bodies go into files beside, under
 * the names they had, else in a folder named for the service. `before`: the draft that the service was made from, where it
 * bears no marks of its own: parts of it that the service has not were left out on purpose, and those that are drafted no
 * more are taken away.
 */
export function mergeDraft(current: ServiceText, next: ServiceText, before: ServiceText | null = null): MergedDraft {
  const edit = new TextEdit(current.text);
  const named = inlineInto(edit.document, current.files);
  const merge = new Merge(edit.document, readWhole(next), before === null ? null : readWhole(before));
  const report = merge.run();
  const files = outlineFrom(edit.document, named, merge.service);
  return { text: edit.write(), files, ...report };
}

/** With what stands in files beside. */
function readWhole({ text, files }: ServiceText): Document {
  const document = parseDocument(text, LOADED) as Document;
  inlineInto(document, files);
  return document;
}

class Merge {
  readonly #current: Document;
  readonly #next: Document;
  readonly #marks: Readonly<Record<string, string>>;
  readonly #nextMarks: Readonly<Record<string, string>>;
  readonly #report = {
    added: [] as string[],
    changed: [] as string[],
    kept: [] as string[],
    conflicts: [] as string[],
    removed: [] as string[],
  };
  /** Parts of the draft before; null: it is not known. */
  readonly #before: ReadonlySet<string> | null;
  readonly #beforeDocument: Document | null;

  constructor(current: Document, next: Document, before: Document | null) {
    this.#current = current;
    this.#next = next;
    this.#marks = before === null ? readMarks(current) : markParts(before.toJS());
    this.#nextMarks = before === null ? readMarks(next) : markParts(next.toJS());
    this.#beforeDocument = before;
    this.#before = before === null ? null : new Set([...Object.keys(this.#marks), ...operationsOf(before)]);
  }

  get #beforeOperations(): YAMLMap | null {
    const operations = this.#beforeDocument?.get('operations');
    return isMap(operations) ? operations : null;
  }

  get service(): string {
    return String(this.#current.get('service'));
  }

  run(): Omit<MergedDraft, 'text' | 'files'> {
    this.#mergeNamed('state');
    this.#mergeDatasets();
    this.#mergeOperations();
    this.#mergeUpsets();
    if (this.#before !== null) this.#removeUndrafted();
    const marks = { ...this.#marks, ...this.#nextMarks };
    if (this.#before === null && Object.keys(marks).length > 0)
      this.#current.set('drafted', this.#current.createNode(marks));
    return this.#report;
  }

  /** Names that are not there yet are added. */
  #mergeNamed(key: string): void {
    const next = this.#next.get(key);
    if (!isMap(next)) return;
    const current = this.#mapAt(key);
    for (const { key: name, value } of next.items) {
      const word = String(name);
      if (current.has(word)) continue;
      current.set(word, value);
      this.#report.added.push(`${key} ${word}`);
    }
  }

  #mergeDatasets(): void {
    const next = this.#next.get('datasets');
    if (!isMap(next)) return;
    const current = this.#mapAt('datasets');
    for (const { key, value } of next.items) {
      const name = String(key);
      const part = `data ${name}`;
      if (!current.has(name)) {
        current.set(name, value);
        this.#report.added.push(part);
      } else if (this.#mayReplace(part, current.get(name, true))) current.set(name, value);
    }
  }

  #mergeOperations(): void {
    const next = this.#next.get('operations');
    if (!isMap(next)) return;
    const current = this.#mapAt('operations');
    for (const pair of next.items) {
      const name = String(pair.key);
      const own = this.#findOperation(current, name, pair.value);
      if (own === null) {
        if (this.#before?.has(name)) continue;
        current.add(pair);
        this.#report.added.push(name);
      } else if (isMap(own.value) && isMap(pair.value)) this.#mergeOperation(own.name, name, own.value, pair.value);
    }
  }

  /** By its name, else by its address: names may have been changed by hand. */
  #findOperation(current: YAMLMap, name: string, next: unknown): { name: string; value: unknown } | null {
    if (current.has(name)) return { name, value: current.get(name) };
    const shape = shapeOf(next);
    const same = current.items.find(({ value }) => shape !== null && shapeOf(value) === shape);
    return same === undefined ? null : { name: String(same.key), value: same.value };
  }

  #mergeOperation(name: string, nextName: string, current: YAMLMap, next: YAMLMap): void {
    // What the draft before had not is the service's own.
    if (this.#before !== null && !this.#before.has(nextName)) return;
    this.#mergeFields(name, current, next, this.#beforeOperations?.get(nextName));
    const cases = current.get('cases');
    const nextCases = next.get('cases');
    if (!isSeq(cases) || !isSeq(nextCases)) return;
    nextCases.items.forEach((item, i) => {
      const caseName = nameOf(item);
      const at = cases.items.findIndex((own) => nameOf(own) === caseName);
      const part = `${nextName} / ${caseName}`;
      if (at < 0) {
        if (!this.#before?.has(part)) this.#addCase(cases, nextCases, i, `${name} / ${caseName}`);
      } else if (this.#mayReplace(part, cases.items[at])) cases.items[at] = item;
    });
  }

  /** What an operation has beside its cases: anew where it is as it was drafted, or not there and the draft before is not known. */
  #mergeFields(name: string, current: YAMLMap, next: YAMLMap, before: unknown): void {
    const mark = (map: YAMLMap, key: string, document: Document): string =>
      map.has(key) ? markOf((map.get(key, true) as { toJS: (document: Document) => unknown }).toJS(document)) : '';
    for (const key of ['on', 'title', 'row']) {
      const own = mark(current, key, this.#current);
      const drafted = mark(next, key, this.#next);
      const isAsDrafted = isMap(before) ? own === mark(before, key, this.#beforeDocument as Document) : own === '';
      if (own === drafted || !isAsDrafted) continue;
      if (drafted === '') current.delete(key);
      else current.set(key, next.get(key, true));
      if (!this.#report.changed.includes(name)) this.#report.changed.push(name);
    }
  }

  /** A new case stands before the first of those that follow it in the draft. */
  #addCase(cases: YAMLSeq, nextCases: YAMLSeq, index: number, part: string): void {
    const following = new Set(nextCases.items.slice(index + 1).map(nameOf));
    const before = cases.items.findIndex((own) => following.has(nameOf(own)));
    cases.items.splice(before < 0 ? cases.items.length : before, 0, nextCases.items[index]);
    this.#report.added.push(part);
  }

  /** Whether a part is still as it was drafted; what is not is kept, and told. */
  #mayReplace(part: string, current: unknown): boolean {
    const now = markOf((current as { toJS: (document: Document) => unknown }).toJS(this.#current));
    const next = this.#nextMarks[part];
    if (now === next) return false;
    if (now === this.#marks[part]) {
      this.#report.changed.push(part);
      return true;
    }
    if (next === this.#marks[part]) this.#report.kept.push(part);
    else this.#report.conflicts.push(part);
    return false;
  }

  /** What was drafted before and is not any more goes, unless it was edited by hand. */
  #removeUndrafted(): void {
    const operations = this.#current.get('operations');
    if (!isMap(operations)) return;
    const drafted = new Set(operationsOf(this.#next));
    for (const { key, value } of [...operations.items]) {
      const name = String(key);
      const cases = isMap(value) ? value.get('cases') : undefined;
      if (!isSeq(cases)) continue;
      cases.items = cases.items.filter((item) => !this.#isUndrafted(`${name} / ${nameOf(item)}`, item));
      if (cases.items.length === 0 && this.#before?.has(name) && !drafted.has(name)) operations.delete(key);
    }
  }

  #isUndrafted(part: string, item: unknown): boolean {
    const mark = this.#marks[part];
    if (mark === undefined || this.#nextMarks[part] !== undefined) return false;
    const isAsDrafted = markOf((item as { toJS: (document: Document) => unknown }).toJS(this.#current)) === mark;
    (isAsDrafted ? this.#report.removed : this.#report.conflicts).push(part);
    return isAsDrafted;
  }

  #mergeUpsets(): void {
    const next = this.#next.get('upsets');
    if (!isSeq(next)) return;
    const current = this.#current.get('upsets');
    if (!isSeq(current)) {
      this.#current.set('upsets', next);
      return;
    }
    const known = new Set(current.items.map((item) => (isMap(item) ? item.get('upset') : null)));
    for (const item of next.items) if (isMap(item) && !known.has(item.get('upset'))) current.items.push(item);
  }

  #mapAt(key: string): YAMLMap {
    const found = this.#current.get(key);
    if (isMap(found)) return found;
    const made = this.#current.createNode({}) as YAMLMap;
    this.#current.set(key, made);
    return made;
  }
}

function operationsOf(document: Document): string[] {
  const operations = document.get('operations');
  return isMap(operations) ? operations.items.map(({ key }) => String(key)) : [];
}

function readMarks(document: Document): Readonly<Record<string, string>> {
  const drafted = document.get('drafted');
  return isMap(drafted) ? (drafted.toJS(document) as Record<string, string>) : {};
}

function nameOf(item: unknown): string {
  return isMap(item) ? String(item.get('case')) : '';
}

function shapeOf(operation: unknown): string | null {
  const parsed = isMap(operation) ? parseOn(plainOn(operation.get('on'))) : null;
  return parsed?.kind === 'address' ? addressShape(parsed.address) : null;
}

function plainOn(on: unknown): string | SoapOn {
  const { soap, at, element, action } = (isMap(on) ? on.toJSON() : {}) as Partial<SoapOn>;
  return soap === undefined || at === undefined ? String(on) : { soap, at, element, action };
}
