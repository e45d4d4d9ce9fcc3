import { type Document, parseDocument } from 'yaml';
import { keepOwnLines } from './keep-lines.js';
import { quoteWhereNeeded } from './write-service-file.js';

/** Beyond so many characters a text is written anew: finding out what changed would hold up everything else. */
const LONGEST = 200_000;
const READING = { uniqueKeys: false, logLevel: 'silent' } as const;

/**
 * A change of a YAML text, made in its document. A library writes a document anew, and with it all that people laid out
 * otherwise; here only the lines are new that say something else, comments and all others keep their very characters. What
 * comes out is read again to see that it says what the document does; where it does not, the text written anew is given.
 */
export class TextEdit {
  readonly document: Document;
  readonly #text: string;
  readonly #isCrlf: boolean;
  readonly #layout: Layout;
  /** The text as the library writes it; null: it is not asked for. */
  readonly #plain: string | null;

  constructor(text: string) {
    this.#text = text.replaceAll('\r\n', '\n');
    this.#isCrlf = text.length !== this.#text.length;
    this.#layout = layoutOf(this.#text);
    this.document = parseDocument(this.#text, READING) as Document;
    quoteWhereNeeded(this.document);
    const isKept = text.length <= LONGEST && this.document.errors.length === 0;
    this.#plain = isKept ? this.document.toString(this.#layout) : null;
  }

  /** The text with what was changed in the document. */
  write(): string {
    quoteWhereNeeded(this.document);
    const written = this.#keep(this.document.toString(this.#layout));
    return this.#isCrlf ? written.replaceAll('\n', '\r\n') : written;
  }

  #keep(edited: string): string {
    if (this.#plain === null) return edited;
    if (this.#plain === edited) return this.#text;
    for (const write of [tighten, (line: string) => line]) {
      const kept = keepOwnLines(this.#text, this.#plain, edited, write);
      if (saysTheSame(kept, edited, this.#layout)) return kept;
    }
    return edited;
  }
}

/** The text with a change of its document. */
export function editText(text: string, edit: (document: Document) => void): string {
  const own = new TextEdit(text);
  edit(own.document);
  return own.write();
}

interface Layout {
  readonly lineWidth: 0;
  readonly indent: number;
  readonly indentSeq: boolean;
}

/** How far maps are set in, and whether lists are, as the first of them shows. */
function layoutOf(text: string): Layout {
  const map = /^[^\s#-][^\n]*:[ \t]*\n(?:[ \t]*(?:#[^\n]*)?\n)*( +)[^\s#-]/m.exec(text);
  const list = /^( *)[^\s#-][^\n]*:[ \t]*\n(?:[ \t]*(?:#[^\n]*)?\n)*( *)- /m.exec(text);
  return {
    lineWidth: 0,
    indent: map?.[1]?.length ?? 2,
    indentSeq: list === null || list[1] !== list[2],
  };
}

/** A text as the library writes it; null: it cannot be read. */
function readAnew(text: string, layout: Layout): string | null {
  const document = parseDocument(text, READING) as Document;
  if (document.errors.length > 0) return null;
  quoteWhereNeeded(document);
  return document.toString(layout);
}

/** Whether a text says what a written one does: values, their order, and comments; empty lines may differ where they mean nothing. */
function saysTheSame(text: string, written: string, layout: Layout): boolean {
  const own = readAnew(text, layout);
  if (own === written) return true;
  const other = readAnew(written, layout);
  if (own === null || other === null) return false;
  return withoutEmpty(own) === withoutEmpty(other) && jsonOf(text) === jsonOf(written);
}

function withoutEmpty(text: string): string {
  return text.replaceAll(/\n(?:[ \t]*\n)+/g, '\n');
}

function jsonOf(text: string): string {
  return JSON.stringify(parseDocument(text, READING).toJS({ maxAliasCount: 0 }));
}

/** `[ a, b ]` as people write it. */
function tighten(line: string): string {
  return line.replaceAll(/\[ (?=\S)/g, '[').replaceAll(/(?<=\S) \]/g, ']');
}
