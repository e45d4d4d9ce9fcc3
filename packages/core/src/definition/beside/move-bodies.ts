import { TextEdit } from '../text-edit.js';
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
  const edit = new TextEdit(text);
  const { document } = edit;
  for (const spot of bodySpots(document.toJS())) {
    const { path, form, value } = spot;
    if (!isReference(value)) continue;
    const read = readBeside(value, form, files);
    if (read.kind === 'refused') continue;
    document.setIn(path, document.createNode(read.value, { aliasDuplicateObjects: false }));
    named.set(spotId(spot), value);
  }
  return named.size === 0 ? { text, named } : { text: edit.write(), named };
}

/** The other way: large bodies, and those that had files before, into files beside. */
export function outlineBodies({ text, named }: InlinedText, folder: string): ServiceText {
  const edit = new TextEdit(text);
  const { document } = edit;
  const bodies = splitBodies(document.toJS(), folder, named);
  for (const { path, name } of bodies) document.setIn(path, name);
  return bodies.length === 0 ? { text, files: {} } : { text: edit.write(), files: filesOf(bodies) };
}
