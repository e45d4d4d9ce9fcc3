import { escapeMarkup } from '../../xml/markup-text.js';
import { type MadeElement, XSI } from './generate-markup.js';
import { splitName } from './xml-tree.js';

const XML = 'http://www.w3.org/XML/1998/namespace';

/** What stands in the place of the text of an element without children, or of one of its attributes, as markup; null: what was made. */
export type ReplaceText = (element: MadeElement, attribute: string | null) => string | null;

/** A made element as markup, indented, each namespace with a prefix that the outermost element declares. */
export function writeMarkup(
  element: MadeElement,
  prefixes: ReadonlyMap<string, string>,
  replace: ReplaceText = () => null,
): string {
  const known = collectPrefixes(element, prefixes);
  const declared = [...known].map(([namespace, prefix]) => ` xmlns:${prefix}="${escapeMarkup(namespace)}"`).join('');
  return write(element, known, declared, '', replace);
}

/** A prefix for each namespace of an element: those that are given, else a letter of its own. */
function collectPrefixes(element: MadeElement, given: ReadonlyMap<string, string>): ReadonlyMap<string, string> {
  const found = new Map<string, string>();
  const add = (namespace: string): void => {
    if (namespace === '' || namespace === XML || found.has(namespace)) return;
    const own = namespace === XSI ? 'xsi' : given.get(namespace);
    const free = [...'mnopqrstuvwxyz'].find((letter) => ![...found.values(), ...given.values()].includes(letter));
    found.set(namespace, own ?? free ?? `n${found.size}`);
  };
  const visit = ({ name, attributes, children }: MadeElement): void => {
    add(splitName(name)[0]);
    for (const [attribute, value] of attributes) {
      add(splitName(attribute)[0]);
      if (attribute === `{${XSI}}type`) add(splitName(value)[0]);
    }
    children.forEach(visit);
  };
  visit(element);
  return found;
}

function write(
  element: MadeElement,
  prefixes: ReadonlyMap<string, string>,
  declared: string,
  indent: string,
  replace: ReplaceText,
): string {
  const name = prefixed(element.name, prefixes);
  const attributes = element.attributes
    .map(([key, value]) => {
      const text = key === `{${XSI}}type` ? prefixed(value, prefixes) : value;
      return ` ${prefixed(key, prefixes)}="${replace(element, key) ?? escapeMarkup(text)}"`;
    })
    .join('');
  const open = `${indent}<${name}${declared}${attributes}`;
  if (element.children.length > 0) {
    const inner = element.children.map((child) => write(child, prefixes, '', `${indent}  `, replace)).join('\n');
    return `${open}>\n${inner}\n${indent}</${name}>`;
  }
  const text = replace(element, null) ?? (element.text === null ? '' : escapeMarkup(element.text));
  return text === '' ? `${open}/>` : `${open}>${text}</${name}>`;
}

function prefixed(name: string, prefixes: ReadonlyMap<string, string>): string {
  const [namespace, local] = splitName(name);
  if (namespace === XML) return `xml:${local}`;
  const prefix = prefixes.get(namespace);
  return prefix === undefined ? local : `${prefix}:${local}`;
}
