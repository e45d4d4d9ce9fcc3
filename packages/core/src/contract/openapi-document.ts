import { YamlSource } from '../definition/yaml-source.js';
import { AppError } from '../errors/app-error.js';

export type JsonMap = Readonly<Record<string, unknown>>;

/** An OpenAPI 3.0 or 3.1 document; references are followed when asked for, never expanded, so circles do no harm. */
export interface OpenApiDocument {
  readonly root: JsonMap;
  readonly is31: boolean;
  /** The value at the end of its `$ref`s, and the pointer of the last one; null when a reference leads nowhere. */
  readonly resolve: (value: unknown) => unknown;
  /** 1-based line of a path of keys. */
  readonly line: (path: readonly (string | number)[]) => number;
}

/** Reads a document from YAML or JSON. Fails with `file-refused` (line, column) or `file-unreadable`. */
export function readOpenApi(text: string): OpenApiDocument {
  const source = new YamlSource(text);
  const problems = source.mistakes();
  if (problems.length > 0) throw new AppError('file-refused', 'the document cannot be read', { problems });
  const root = source.document.toJS({ maxAliasCount: 100 }) as unknown;
  if (!isMap(root)) throw new AppError('file-unreadable', 'not an OpenAPI document: a map is expected');
  const version = root['openapi'];
  if (typeof version !== 'string' || !/^3\.[01]\./.test(version)) {
    const found =
      root['swagger'] === undefined
        ? `\`openapi: ${String(version)}\``
        : `\`swagger: ${String(root['swagger'])}\` (not supported yet)`;
    throw new AppError('file-unreadable', `an OpenAPI 3.0 or 3.1 document is expected; this one says ${found}`);
  }
  return {
    root,
    is31: version.startsWith('3.1'),
    resolve: (value) => resolveRef(root, value),
    line: (path) => source.position({ path }).line,
  };
}

const MOST_HOPS = 50;

function resolveRef(root: JsonMap, value: unknown): unknown {
  let at = value;
  for (let hop = 0; hop < MOST_HOPS; hop++) {
    if (!isMap(at) || typeof at['$ref'] !== 'string') return at;
    at = readPointer(root, at['$ref']);
  }
  return null;
}

/** A fragment `#/a/b` (RFC 6901) into the document; other references are not supported yet and read as null. */
function readPointer(root: JsonMap, ref: string): unknown {
  if (ref === '#') return root;
  if (!ref.startsWith('#/')) return null;
  let at: unknown = root;
  for (const token of ref.slice(2).split('/')) {
    const key = decodeURIComponent(token).replaceAll('~1', '/').replaceAll('~0', '~');
    if (at === null || typeof at !== 'object' || !Object.hasOwn(at, key)) return null;
    at = (at as JsonMap)[key];
  }
  return at;
}

export function isMap(value: unknown): value is JsonMap {
  return value !== null && typeof value === 'object' && !Array.isArray(value);
}
