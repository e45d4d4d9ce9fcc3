import { type SchemaSet, XSD } from './schema-set.js';
import { type QName, resolveName, splitName, type XmlElement } from './xml-tree.js';

const MOST_STEPS = 50;

/** The declaration of what stands at a path of elements (`/lodgeManifest/manifest/line[2]`), as deep as it can be found. */
export function findDeclaration(set: SchemaSet, root: QName, path: string): XmlElement | null {
  let node = set.find('element', root)?.node ?? null;
  for (const step of path.split('/').slice(2)) {
    const local = step.replace(/\[.*$/, '');
    const found: XmlElement | null = node === null ? null : findChild(set, node, local, MOST_STEPS);
    if (found === null) return node;
    node = found;
  }
  return node;
}

/** The element of this local name in the content of a declaration, its type, or the types that is made from. */
function findChild(set: SchemaSet, node: XmlElement, local: string, left: number): XmlElement | null {
  if (left === 0) return null;
  const { type, base, ref } = node.attributes;
  for (const child of node.children) {
    if (child.namespace !== XSD || child.name === 'attribute') continue;
    if (child.name === 'element') {
      if (splitName(child.attributes['ref'] ?? child.attributes['name'] ?? '')[1].replace(/^.*:/, '') === local)
        return child;
      continue;
    }
    const inner = findChild(set, child, local, left - 1);
    if (inner !== null) return inner;
  }
  const referred = [
    type === undefined ? null : set.find('type', resolveName(type, node)),
    base === undefined ? null : set.find('type', resolveName(base, node)),
    ref === undefined ? null : set.find(node.name === 'group' ? 'group' : 'element', resolveName(ref, node)),
  ];
  for (const other of referred) {
    const found = other === null ? null : findChild(set, other.node, local, left - 1);
    if (found !== null) return found;
  }
  return null;
}
