import type { FlatSchema, Limits } from '../flat-schema.js';
import type { SchemaSet } from './schema-set.js';
import { XSD } from './schema-set.js';
import { childOf, childrenOf, type QName, resolveName, splitName, type XmlElement } from './xml-tree.js';

/** What the texts of a simple type are like. */
export interface SimpleType {
  /** The built-in type it comes from: `decimal`. */
  readonly builtIn: string;
  /** A list of such texts, divided by spaces. */
  readonly isList: boolean;
  readonly enum: readonly string[] | null;
  /** As JavaScript reads them, anchored. */
  readonly patterns: readonly string[];
  readonly limits: Limits;
  /** Bounds that are no numbers: dates and times. */
  readonly bounds: readonly string[];
}

const PLAIN: SimpleType = { builtIn: 'string', isList: false, enum: null, patterns: [], limits: {}, bounds: [] };

/** A simple type by its name: built-in, or of the schemas; unknown ones are texts. */
export function readNamedType(set: SchemaSet, name: QName): SimpleType {
  const [namespace, local] = splitName(name);
  if (namespace === XSD) {
    const isList = ['NMTOKENS', 'IDREFS', 'ENTITIES'].includes(local);
    return { ...PLAIN, builtIn: isList ? 'NMTOKEN' : local, isList };
  }
  const found = set.find('type', name);
  return found === null || found.node.name !== 'simpleType' ? PLAIN : readSimpleType(set, found.node);
}

/** What a `simpleType` says. Of a union its first member stands for all. */
export function readSimpleType(set: SchemaSet, node: XmlElement): SimpleType {
  const list = childOf(node, XSD, 'list');
  if (list !== null) return { ...readReferred(set, list, 'itemType'), isList: true };
  const union = childOf(node, XSD, 'union');
  if (union !== null) {
    const [first] = union.attributes['memberTypes']?.trim().split(/\s+/) ?? [];
    if (first !== undefined) return readNamedType(set, resolveName(first, union));
    const own = childOf(union, XSD, 'simpleType');
    return own === null ? PLAIN : readSimpleType(set, own);
  }
  const restriction = childOf(node, XSD, 'restriction');
  return restriction === null ? PLAIN : restrict(readReferred(set, restriction, 'base'), restriction);
}

function readReferred(set: SchemaSet, node: XmlElement, attribute: string): SimpleType {
  const name = node.attributes[attribute];
  if (name !== undefined) return readNamedType(set, resolveName(name, node));
  const own = childOf(node, XSD, 'simpleType');
  return own === null ? PLAIN : readSimpleType(set, own);
}

/** A type with the facets of a restriction added to it. */
export function restrict(base: SimpleType, restriction: XmlElement): SimpleType {
  const values = (name: string) =>
    childrenOf(restriction, XSD, name).flatMap((facet) => facet.attributes['value'] ?? []);
  const number = (name: string) => toNumber(values(name)[0]);
  const list = values('enumeration');
  const patterns = values('pattern');
  const digits = number('fractionDigits');
  const total = number('totalDigits');
  const length = number('length');
  const given: Record<string, number | undefined> = {
    minimum: number('minInclusive'),
    maximum: number('maxInclusive'),
    above: number('minExclusive'),
    below: number('maxExclusive'),
    multipleOf: digits === undefined ? undefined : 10 ** -digits,
    minLength: length ?? number('minLength'),
    maxLength: length ?? number('maxLength'),
  };
  if (total !== undefined && given['maximum'] === undefined && given['below'] === undefined)
    given['below'] = 10 ** (total - (digits ?? 0));
  return {
    ...base,
    enum: list.length > 0 ? list : base.enum,
    // Patterns of one step are alternatives (XSD Part 2, 4.3.4.3).
    patterns: patterns.length > 0 ? [...base.patterns, toJavaScript(patterns)] : base.patterns,
    limits: { ...base.limits, ...withoutUndefined(given) },
    bounds: [...base.bounds, ...values('minInclusive'), ...values('maxInclusive')],
  };
}

function withoutUndefined(values: Readonly<Record<string, number | undefined>>): Limits {
  return Object.fromEntries(Object.entries(values).filter(([, value]) => value !== undefined));
}

function toNumber(text: string | undefined): number | undefined {
  const value = text === undefined || text.trim() === '' ? Number.NaN : Number(text);
  return Number.isFinite(value) ? value : undefined;
}

/** XSD patterns are anchored, and have names for the characters of XML names. */
function toJavaScript(patterns: readonly string[]): string {
  const own = patterns.map((pattern) => pattern.replaceAll('\\i', '[A-Za-z_:]').replaceAll('\\c', '[-.\\w:]'));
  return `^(?:${own.join('|')})$`;
}

const INTEGERS: Readonly<Record<string, Limits>> = {
  integer: {},
  long: {},
  int: { minimum: -(2 ** 31), maximum: 2 ** 31 - 1 },
  short: { minimum: -(2 ** 15), maximum: 2 ** 15 - 1 },
  byte: { minimum: -128, maximum: 127 },
  nonNegativeInteger: { minimum: 0 },
  positiveInteger: { minimum: 1 },
  nonPositiveInteger: { maximum: 0 },
  negativeInteger: { maximum: -1 },
  unsignedLong: { minimum: 0 },
  unsignedInt: { minimum: 0, maximum: 2 ** 32 - 1 },
  unsignedShort: { minimum: 0, maximum: 2 ** 16 - 1 },
  unsignedByte: { minimum: 0, maximum: 255 },
};

const FORMATS: Readonly<Record<string, string>> = {
  dateTime: 'date-time',
  dateTimeStamp: 'date-time',
  date: 'date',
  time: 'time',
  duration: 'duration',
  anyURI: 'uri',
  base64Binary: 'byte',
};

/** The type as values are generated from it: its kind, format and limits. */
export function toFlatSchema({ builtIn, patterns, limits }: SimpleType): FlatSchema {
  const integer = INTEGERS[builtIn];
  const isNumber = integer !== undefined || ['decimal', 'float', 'double'].includes(builtIn);
  const usual = usualRange(integer, limits);
  return {
    types: new Set([
      integer !== undefined ? 'integer' : isNumber ? 'number' : builtIn === 'boolean' ? 'boolean' : 'string',
    ]),
    enum: null,
    given: [],
    format: FORMATS[builtIn] ?? null,
    patterns,
    limits: isNumber ? { ...usual, ...limits } : limits,
    properties: new Map(),
    required: new Set(),
    additional: [],
    byPattern: [],
    items: [],
    firstItems: [],
    isUnique: false,
    isReadOnly: false,
    isWriteOnly: false,
    words: '',
    refs: [],
  };
}

const USUAL_MOST = 100;

/** The range of a built-in type is no hint at what its numbers are usually like: only its sign is. */
function usualRange(integer: Limits | undefined, limits: Limits): Limits {
  if (integer === undefined) return {};
  const { minimum, maximum } = integer;
  if (maximum !== undefined && maximum <= 0) return integer;
  const isBounded = limits.minimum !== undefined || limits.above !== undefined;
  if (isBounded) return maximum === undefined ? {} : { maximum };
  const least = Math.max(minimum ?? 1, 1);
  const isBelow = (limits.maximum ?? limits.below ?? least + 1) <= least;
  const most = Math.min(maximum ?? USUAL_MOST, USUAL_MOST);
  return isBelow ? (minimum === undefined ? {} : { minimum }) : { minimum: least, maximum: most };
}
