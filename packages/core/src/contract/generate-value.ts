import randexp from 'randexp';
import { drawAt, hashText, uuidAt } from '../state/draw.js';
import { isMap, type JsonMap, type OpenApiDocument } from './openapi-document.js';

// CommonJS whose types say `default`, whose runtime is the class itself.
const RandExp = randexp as unknown as typeof randexp.default;

/** Optional members are left out below this depth. */
const DEEPEST_OPTIONAL = 5;
const DEEPEST = 12;

/** What a value is generated inside of: how deep, and the references that are open, so that circles end at their first return. */
interface Around {
  readonly depth: number;
  readonly refs: readonly string[];
}

const TOP: Around = { depth: 0, refs: [] };

/** The references a schema begins with: its own, or those of its branches. */
function refsOf(schema: unknown): string[] {
  if (!isMap(schema)) return [];
  if (typeof schema['$ref'] === 'string') return [schema['$ref']];
  const branches = [schema['oneOf'], schema['anyOf'], schema['allOf']].flatMap((list) =>
    Array.isArray(list) ? list : [],
  );
  return [...branches.flatMap(refsOf), ...refsOf(schema['items'])];
}

/**
 * A value that fits a schema, the same each time: example, default, const, enum, then format, then type and limits.
 * `place` names where the value stands: draws depend on it and on nothing else.
 */
export function generateValue(
  document: OpenApiDocument,
  schema: unknown,
  place: string,
  around: Around = TOP,
): unknown {
  const { depth } = around;
  const inside: Around = { depth, refs: [...around.refs, ...refsOf(schema)] };
  const resolved = mergeAllOf(document, document.resolve(schema));
  if (!isMap(resolved) || depth > DEEPEST) return null;
  const given = givenValue(resolved);
  if (given !== undefined) return given;
  const branches = resolved['oneOf'] ?? resolved['anyOf'];
  if (Array.isArray(branches) && branches.length > 0) {
    const { oneOf: _one, anyOf: _any, ...rest } = resolved;
    return generateValue(document, { allOf: [rest, chooseBranch(document, branches)] }, place, inside);
  }
  switch (typeOf(resolved)) {
    case 'object':
      return generateObject(document, resolved, place, inside);
    case 'array':
      return generateList(document, resolved, place, inside);
    case 'string':
      return generateText(resolved, place);
    case 'integer':
    case 'number':
      return generateNumber(resolved, place);
    case 'boolean':
      return drawAt(hashText(place), 0) % 2 === 0;
    default:
      return null;
  }
}

function givenValue(schema: JsonMap): unknown {
  if (schema['example'] !== undefined) return schema['example'];
  if (Array.isArray(schema['examples']) && schema['examples'].length > 0) return schema['examples'][0];
  if (schema['default'] !== undefined) return schema['default'];
  if (schema['const'] !== undefined) return schema['const'];
  return Array.isArray(schema['enum']) && schema['enum'].length > 0 ? schema['enum'][0] : undefined;
}

/** The branch that is easiest to fill: one that is not null. */
function chooseBranch(document: OpenApiDocument, branches: readonly unknown[]): unknown {
  return branches.find((branch) => typeOf(document.resolve(branch) as JsonMap) !== 'null') ?? branches[0];
}

/** `allOf` put together: members and required names joined, other keywords the later one's. */
function mergeAllOf(document: OpenApiDocument, schema: unknown, depth = 0): unknown {
  if (!isMap(schema) || !Array.isArray(schema['allOf']) || depth > DEEPEST) return schema;
  const { allOf, ...own } = schema;
  let merged: JsonMap = {};
  for (const part of [...(allOf as unknown[]), own]) {
    const resolved = mergeAllOf(document, document.resolve(part), depth + 1);
    if (!isMap(resolved)) continue;
    merged = {
      ...merged,
      ...resolved,
      properties: { ...(merged['properties'] as object), ...(resolved['properties'] as object) },
      required: [
        ...new Set([...((merged['required'] as string[]) ?? []), ...((resolved['required'] as string[]) ?? [])]),
      ],
    };
  }
  return merged;
}

function typeOf(schema: JsonMap | null): string {
  const type = schema?.['type'];
  if (typeof type === 'string') return type;
  if (Array.isArray(type)) return String(type.find((name) => name !== 'null') ?? 'null');
  if (isMap(schema?.['properties']) && Object.keys(schema['properties']).length > 0) return 'object';
  if (schema?.['items'] !== undefined) return 'array';
  if (schema?.['pattern'] !== undefined || schema?.['format'] !== undefined) return 'string';
  return schema?.['minimum'] !== undefined || schema?.['maximum'] !== undefined ? 'number' : 'object';
}

function generateObject(document: OpenApiDocument, schema: JsonMap, place: string, around: Around): JsonMap {
  const required = new Set((schema['required'] as string[] | undefined) ?? []);
  const members: Record<string, unknown> = {};
  for (const [name, member] of Object.entries((schema['properties'] as JsonMap | undefined) ?? {})) {
    const isCircle = refsOf(member).some((ref) => around.refs.includes(ref));
    if ((isCircle || around.depth >= DEEPEST_OPTIONAL) && !required.has(name)) continue;
    const resolved = document.resolve(member);
    if (isMap(resolved) && resolved['writeOnly'] === true) continue;
    if (resolved !== null)
      members[name] = generateValue(document, member, `${place}.${name}`, { ...around, depth: around.depth + 1 });
  }
  return members;
}

function generateList(document: OpenApiDocument, schema: JsonMap, place: string, around: Around): unknown[] {
  const least = Number(schema['minItems'] ?? 0);
  const most = Number(schema['maxItems'] ?? Number.POSITIVE_INFINITY);
  const isCircle = refsOf(schema['items']).some((ref) => around.refs.includes(ref));
  const count = isCircle || around.depth >= DEEPEST_OPTIONAL ? least : Math.min(most, Math.max(least, 2));
  return Array.from({ length: count }, (_, i) =>
    generateValue(document, schema['items'] ?? {}, `${place}[${i}]`, { ...around, depth: around.depth + 1 }),
  );
}

function generateNumber(schema: JsonMap, place: string): number {
  const step = Number(schema['multipleOf'] ?? 1);
  const exclusiveLow = schema['exclusiveMinimum'];
  const exclusiveHigh = schema['exclusiveMaximum'];
  const lowest = numberOr(schema['minimum'], Number.NEGATIVE_INFINITY);
  const low = typeof exclusiveLow === 'number' ? exclusiveLow + step : exclusiveLow === true ? lowest + step : lowest;
  const highest = numberOr(schema['maximum'], Number.POSITIVE_INFINITY);
  const high =
    typeof exclusiveHigh === 'number' ? exclusiveHigh - step : exclusiveHigh === true ? highest - step : highest;
  const from = Number.isFinite(low) ? low : Math.min(1, high);
  const to = Number.isFinite(high) ? high : from + 99;
  const first = Math.ceil(from / step) * step;
  const steps = Math.max(0, Math.floor((to - first) / step));
  return first + (drawAt(hashText(place), 0) % (steps + 1)) * step;
}

function numberOr(value: unknown, other: number): number {
  return typeof value === 'number' ? value : other;
}

/** A moment all generated times count from: 2026-03-01T08:00:00Z, so that they are the same each time. */
const FIRST_TIME_MS = Date.UTC(2026, 2, 1, 8);
const MS_PER_DAY = 86_400_000;

function generateText(schema: JsonMap, place: string): string {
  const hash = hashText(place);
  if (typeof schema['pattern'] === 'string') return generatePattern(schema['pattern'], hash);
  const at = new Date(FIRST_TIME_MS + (drawAt(hash, 0) % 28) * MS_PER_DAY);
  const formats: Readonly<Record<string, () => string>> = {
    'date-time': () => at.toISOString(),
    date: () => at.toISOString().slice(0, 10),
    time: () => '08:00:00Z',
    uuid: () => uuidAt(hash, 0),
    email: () => 'harbour.office@example.org',
    uri: () => 'https://harbour.example.org/',
    'uri-reference': () => '/harbour',
    hostname: () => 'harbour.example.org',
    ipv4: () => '192.0.2.10',
    ipv6: () => '2001:db8::10',
    byte: () => 'aGFyYm91cg==',
    duration: () => 'PT2H',
  };
  const made = formats[String(schema['format'])]?.() ?? wordFor(place);
  const least = Number(schema['minLength'] ?? 0);
  const most = Number(schema['maxLength'] ?? Number.POSITIVE_INFINITY);
  return made.padEnd(least, 'x').slice(0, most);
}

/** A readable text where nothing is said: the member's own name, numbered in lists. */
function wordFor(place: string): string {
  const name = /([A-Za-z_][\w-]*)(?:\[\d+\])*$/.exec(place)?.[1] ?? 'text';
  const index = /\[(\d+)\][^[]*$/.exec(place)?.[1];
  return index === undefined ? name : `${name} ${Number(index) + 1}`;
}

function generatePattern(pattern: string, hash: number): string {
  try {
    const generator = new RandExp(pattern);
    let position = 0;
    generator.max = 8;
    generator.randInt = (from: number, to: number) => from + (drawAt(hash, position++) % (to - from + 1));
    return generator.gen();
  } catch {
    return pattern;
  }
}
