import { type Document, parseDocument } from 'yaml';
import { quoteWhereNeeded } from '../write-service-file.js';
import { bodySpots, spotId } from './body-spots.js';
import { readBeside } from './resolve-beside.js';
import { type BesideFiles, isReference, type ServiceText } from './service-text.js';
import { filesOf, splitBodies } from './split-bodies.js';

/** Puts what stands in files beside where a document refers to it; gives their names, by `spotId`. What cannot be read stays a reference. */
export function inlineInto(document: Document, files: BesideFiles): ReadonlyMap<string, string> {
  const named = new Map<string, string>();
  for (const spot of bodySpots(document.toJS())) {
    const { path, form, value } = spot;
    if (!isReference(value)) continue;
    const read = readBeside(value, form, files);
    if (read.kind === 'refused') continue;
    document.setIn(path, document.createNode(read.value, { aliasDuplicateObjects: false }));
    named.set(spotId(spot), value);
  }
  return named;
}

/** The other way: large bodies of a document, and those that had files before, into files beside, which it gives. */
export function outlineFrom(document: Document, named: ReadonlyMap<string, string>, folder: string): BesideFiles {
  const bodies = splitBodies(document.toJS(), folder, named);
  for (const { path, name } of bodies) document.setIn(path, name);
  return filesOf(bodies);
}

/** One file of a service file and those beside it. */
export function inlineBodies({ text, files }: ServiceText): string {
  const document = parseDocument(text, { uniqueKeys: false });
  if (inlineInto(document, files).size === 0) return text;
  quoteWhereNeeded(document);
  return document.toString({ lineWidth: 0 });
}
