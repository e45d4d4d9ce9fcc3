import { drawAt, hashText } from '../../state/draw.js';
import { generateNumber } from '../generate-number.js';
import { generateText } from '../generate-text.js';
import { type SchemaSet, XSD, type XsdComponent, type XsdSchema } from './schema-set.js';
import { readNamedType, readSimpleType, restrict, type SimpleType, toFlatSchema } from './simple-type.js';
import { childOf, childrenOf, type QName, qualify, resolveName, splitName, type XmlElement } from './xml-tree.js';

/** An element that was made up. */
export interface MadeElement {
  readonly name: QName;
  readonly attributes: readonly (readonly [name: QName, value: string])[];
  readonly children: readonly MadeElement[];
  /** Null: it has no text of its own. */
  readonly text: string | null;
}

const USUAL_ITEMS = 2;
const DEEPEST_OPTIONAL = 6;
const DEEPEST = 24;
export const XSI = 'http://www.w3.org/2001/XMLSchema-instance';
const XML = 'http://www.w3.org/XML/1998/namespace';

interface Around {
  readonly set: SchemaSet;
  readonly depth: number;
  /** Elements and types that are open, so that circles end at their first return. */
  readonly open: readonly string[];
}

/** An element of this name that fits the schemas, the same each time; null when they have none. */
export function generateElement(set: SchemaSet, name: QName, place: string): MadeElement | null {
  const found = set.find('element', name);
  return found === null ? null : makeElement(found, name, place, { set, depth: 0, open: [] });
}

function makeElement({ node, schema }: XsdComponent, name: QName, place: string, around: Around): MadeElement {
  const { set } = around;
  if (node.attributes['abstract'] === 'true') {
    for (const other of set.substitutesOf(name)) {
      const found = set.find('element', other);
      if (found !== null) return makeElement(found, other, place, around);
    }
  }
  const given = node.attributes['fixed'] ?? node.attributes['default'];
  const inside = { ...around, depth: around.depth + 1, open: [...around.open, `element ${name}`] };
  const typeName = node.attributes['type'];
  const plain = { name, attributes: [], children: [] };
  if (typeName !== undefined) return { name, ...makeNamed(resolveName(typeName, node), place, given, inside) };
  const complex = childOf(node, XSD, 'complexType');
  if (complex !== null) return { name, ...makeComplex({ node: complex, schema }, place, given, inside) };
  const simple = childOf(node, XSD, 'simpleType');
  if (simple === null) return { ...plain, text: given ?? generateText(toFlatSchema(readNamedType(set, '')), place) };
  return { ...plain, text: given ?? makeText(readSimpleType(set, simple), place) };
}

type Content = Omit<MadeElement, 'name'>;

function makeNamed(type: QName, place: string, given: string | undefined, around: Around): Content {
  const { set } = around;
  const found = splitName(type)[0] === XSD ? null : set.find('type', type);
  if (found === null || found.node.name === 'simpleType')
    return { attributes: [], children: [], text: given ?? makeText(readNamedType(set, type), place) };
  const inside = { ...around, open: [...around.open, `type ${type}`] };
  const isAbstract = found.node.attributes['abstract'] === 'true';
  const concrete = isAbstract ? set.derivedFrom(type).find((own) => !around.open.includes(`type ${own}`)) : undefined;
  if (concrete === undefined) return makeComplex(found, place, given, inside);
  const made = makeNamed(concrete, place, given, inside);
  return { ...made, attributes: [[qualify(XSI, 'type'), concrete], ...made.attributes] };
}

function makeComplex(
  { node, schema }: XsdComponent,
  place: string,
  given: string | undefined,
  around: Around,
): Content {
  const simple = childOf(node, XSD, 'simpleContent');
  if (simple !== null) return makeSimpleContent({ node: simple, schema }, place, given, around);
  const derived = childOf(node, XSD, 'complexContent')?.children.find(({ name }) => name !== 'annotation');
  if (derived === undefined) return makeContent({ node, schema }, place, around);
  const own = makeContent({ node: derived, schema }, place, around);
  const baseName = resolveName(derived.attributes['base'] ?? '', derived);
  const base = around.set.find('type', baseName);
  if (base === null) return own;
  const above = makeComplex(base, place, undefined, { ...around, open: [...around.open, `type ${baseName}`] });
  const names = new Set(own.attributes.map(([name]) => name));
  const attributes = [...above.attributes.filter(([name]) => !names.has(name)), ...own.attributes];
  const children = derived.name === 'extension' ? [...above.children, ...own.children] : own.children;
  return { attributes, children, text: null };
}

function makeSimpleContent(content: XsdComponent, place: string, given: string | undefined, around: Around): Content {
  const way = content.node.children.find(({ name }) => name === 'extension' || name === 'restriction');
  if (way === undefined) return { attributes: [], children: [], text: given ?? '' };
  const base = resolveName(way.attributes['base'] ?? '', way);
  const above = around.set.find('type', base);
  const attributes = makeAttributes({ node: way, schema: content.schema }, place, around);
  if (above !== null && above.node.name === 'complexType') {
    const made = makeComplex(above, place, given, around);
    return { ...made, attributes: [...made.attributes, ...attributes] };
  }
  const type = restrict(readNamedType(around.set, base), way);
  return { attributes, children: [], text: given ?? makeText(type, place) };
}

function makeContent({ node, schema }: XsdComponent, place: string, around: Around): Content {
  const children = node.children.flatMap((child) => makeParticle({ node: child, schema }, place, around));
  return { attributes: makeAttributes({ node, schema }, place, around), children, text: null };
}

/** The elements that one particle of a content model asks for. */
function makeParticle(particle: XsdComponent, place: string, around: Around): MadeElement[] {
  const { node } = particle;
  if (node.namespace !== XSD || !PARTICLES.has(node.name)) return [];
  const least = Number(node.attributes['minOccurs'] ?? 1);
  const most =
    node.attributes['maxOccurs'] === 'unbounded' ? Number.POSITIVE_INFINITY : Number(node.attributes['maxOccurs'] ?? 1);
  const isOptional = least === 0;
  if (isOptional && (around.depth > DEEPEST_OPTIONAL || leadsRound(particle, around))) return [];
  if (around.depth > DEEPEST) return [];
  const count = Math.min(most, Math.max(least, most > 1 ? USUAL_ITEMS : 1));
  return Array.from({ length: count }, (_, i) => makeOnce(particle, place, most > 1 ? i : null, around)).flat();
}

const PARTICLES = new Set(['element', 'sequence', 'all', 'choice', 'group']);

function makeOnce(particle: XsdComponent, place: string, index: number | null, around: Around): MadeElement[] {
  const { node, schema } = particle;
  if (node.name === 'element') {
    const { component, name } = resolveElement(particle, around.set);
    const at = `${place}.${splitName(name)[1]}${index === null ? '' : `[${index}]`}`;
    return component === null ? [] : [makeElement(component, name, at, around)];
  }
  const inner =
    node.attributes['ref'] === undefined
      ? particle
      : around.set.find('group', resolveName(node.attributes['ref'], node));
  if (inner === null) return [];
  const parts = inner.node.children.map((child) => ({
    node: child,
    schema: node.name === 'group' ? inner.schema : schema,
  }));
  if (node.name !== 'choice') return parts.flatMap((part) => makeParticle(part, place, around));
  const branches = parts.filter(({ node: { name } }) => PARTICLES.has(name));
  const chosen = branches.find((part) => !leadsRound(part, around)) ?? branches[0];
  return chosen === undefined ? [] : makeParticle(chosen, place, around);
}

/** The declaration that an element of a content model means, and the name it has there. */
function resolveElement(
  { node, schema }: XsdComponent,
  set: SchemaSet,
): { component: XsdComponent | null; name: QName } {
  const ref = node.attributes['ref'];
  if (ref !== undefined) {
    const name = resolveName(ref, node);
    return { component: set.find('element', name), name };
  }
  return { component: { node, schema }, name: localName(node, schema, 'elementFormDefault') };
}

function localName(node: XmlElement, schema: XsdSchema, formDefault: string): QName {
  const form = node.attributes['form'] ?? schema.node.attributes[formDefault] ?? 'unqualified';
  return qualify(form === 'qualified' ? schema.targetNamespace : '', node.attributes['name'] ?? '');
}

function leadsRound(particle: XsdComponent, { set, open }: Around): boolean {
  const { node } = particle;
  if (node.name !== 'element')
    return node.children.some((child) => leadsRound({ ...particle, node: child }, { set, open, depth: 0 }));
  const { name } = resolveElement(particle, set);
  const type = node.attributes['type'];
  return (
    (node.attributes['ref'] !== undefined && open.includes(`element ${name}`)) ||
    (type !== undefined && open.includes(`type ${resolveName(type, node)}`))
  );
}

function makeAttributes(owner: XsdComponent, place: string, around: Around): [QName, string][] {
  const { set } = around;
  return owner.node.children.flatMap((node): [QName, string][] => {
    if (node.namespace !== XSD) return [];
    if (node.name === 'attributeGroup') {
      const group = set.find('attributeGroup', resolveName(node.attributes['ref'] ?? '', node));
      return group === null ? [] : makeAttributes(group, place, around);
    }
    if (node.name !== 'attribute' || node.attributes['use'] === 'prohibited') return [];
    const ref = node.attributes['ref'];
    const name = ref === undefined ? localName(node, owner.schema, 'attributeFormDefault') : resolveName(ref, node);
    if (splitName(name)[0] === XML) return node.attributes['use'] === 'required' ? [[name, 'en']] : [];
    const declared = ref === undefined ? node : set.find('attribute', name)?.node;
    return declared === undefined ? [] : [[name, attributeText(node, declared, `${place}.${splitName(name)[1]}`, set)]];
  });
}

function attributeText(use: XmlElement, declared: XmlElement, place: string, set: SchemaSet): string {
  const given =
    use.attributes['fixed'] ??
    use.attributes['default'] ??
    declared.attributes['fixed'] ??
    declared.attributes['default'];
  if (given !== undefined) return given;
  const type = declared.attributes['type'];
  if (type !== undefined) return makeText(readNamedType(set, resolveName(type, declared)), place);
  const own = childrenOf(declared, XSD, 'simpleType')[0];
  return makeText(own === undefined ? readNamedType(set, '') : readSimpleType(set, own), place);
}

const FIXED: Readonly<Record<string, string>> = {
  gYear: '2026',
  gYearMonth: '2026-03',
  gMonth: '--03',
  gMonthDay: '--03-01',
  gDay: '---01',
  hexBinary: '68617262',
  language: 'en',
  QName: 'harbour',
};
const NAMES = new Set(['Name', 'NCName', 'NMTOKEN', 'ID', 'IDREF', 'ENTITY']);
const DATES = new Set(['date', 'dateTime', 'time', 'gYear', 'gYearMonth', 'duration', 'gMonth', 'gDay', 'gMonthDay']);

function makeText(type: SimpleType, place: string): string {
  if (type.isList) return [0, 1].map((i) => makeOneText(type, `${place}[${i}]`)).join(' ');
  return makeOneText(type, place);
}

function makeOneText(type: SimpleType, place: string): string {
  const { builtIn, enum: list, bounds, patterns } = type;
  const hash = hashText(place);
  if (list !== null) return list[drawAt(hash, 0) % list.length] ?? '';
  const [bound] = bounds;
  if (bound !== undefined && DATES.has(builtIn)) return bound;
  const schema = toFlatSchema(type);
  if (schema.types?.has('boolean')) return drawAt(hash, 0) % 2 === 0 ? 'true' : 'false';
  if (patterns.length > 0) return generateText(schema, place);
  if (schema.types?.has('number') || schema.types?.has('integer')) return String(generateNumber(schema, place));
  const fixed = FIXED[builtIn];
  if (fixed !== undefined) return fixed;
  const text = generateText(schema, place);
  if (!NAMES.has(builtIn)) return text;
  return `${text.replaceAll(/[^\w.-]+/g, '-').replace(/^[^A-Za-z_]+/, '')}${builtIn === 'ID' ? `-${hash.toString(36)}` : ''}`;
}
