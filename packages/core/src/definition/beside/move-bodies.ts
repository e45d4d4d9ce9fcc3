import { type Document, parseDocument } from 'yaml';
import { quoteWhereNeeded } from '../write-service-file.js';
import { bodySpots, spotId } from './body-spots.js';
import { readBeside } from './resolve-beside.js';
import { isReference, type ServiceText } from './service-text.js';
import { filesOf, splitBodies } from './split-bodies.js';

/** A service file that holds everything itself, and the names of the files its bodies came from, by `spotId`. */
export interface InlinedText {
  readonly text: string;
  readonly named: ReadonlyMap<string, string>;
}

/** One file of a service file and those beside it. What cannot be read stays a reference. */
export function inlineBodies({ text, files }: ServiceText): InlinedText {
  const named = new Map<string, string>();
  const document = parse(text);
  for (const spot of bodySpots(document.toJS())) {
    const { path, form, value } = spot;
    if (!isReference(value)) continue;
    const read = readBeside(value, form, files);
    if (read.kind === 'refused') continue;
    document.setIn(path, document.createNode(read.value, { aliasDuplicateObjects: false }));
    named.set(spotId(spot), value);
  }
  return named.size === 0 ? { text, named } : { text: write(document), named };
}

/** The other way: large bodies, and those that had files before, into files beside. */
export function outlineBodies({ text, named }: InlinedText, folder: string): ServiceText {
  const document = parse(text);
  const bodies = splitBodies(document.toJS(), folder, named);
  for (const { path, name } of bodies) document.setIn(path, name);
  return bodies.length === 0 ? { text, files: {} } : { text: write(document), files: filesOf(bodies) };
}

function parse(text: string): Document {
  return parseDocument(text, { uniqueKeys: false });
}

function write(document: Document): string {
  quoteWhereNeeded(document);
  return document.toString({ lineWidth: 0 });
}
