import { type MixedSegment, matchMixedSegment, weighMixedSegment } from './mixed-segment.js';
import { decodeSegment, type OperationAddress, segmentShape } from './path-template.js';

/** A node of the segment trie; every field is set at once, so that all nodes have one shape. */
class TrieNode<T> {
  readonly literals = new Map<string, TrieNode<T>>();
  /** Segments with parameters in them, the one with the most text first; null: none. */
  mixed: MixedChild<T>[] | null = null;
  parameter: TrieNode<T> | null = null;
  /** Entries of templates that end here, and of templates whose tail begins here. */
  readonly ends: TrieEntry<T>[] = [];
  readonly tails: TrieEntry<T>[] = [];
}

interface MixedChild<T> {
  readonly segment: MixedSegment;
  readonly node: TrieNode<T>;
}

interface TrieEntry<T> {
  readonly method: string;
  readonly names: readonly string[];
  readonly value: T;
}

/** What a path leads to: one value with the decoded parameters, or the methods that the path does have, or nothing. */
export type TrieMatch<T> =
  | { readonly kind: 'found'; readonly value: T; readonly names: readonly string[]; readonly values: readonly string[] }
  | { readonly kind: 'other-method'; readonly methods: readonly string[] }
  | { readonly kind: 'none' };

/** More segments than this are no path of ours; keeps the walk shallow whatever is sent. */
const MOST_SEGMENTS = 200;

/**
 * Path templates compared segment by segment, left to right: a literal beats `{name}.json`, which beats
 * `{name}`, which beats the tail, with backtracking, so that `/berths/free` does not hide `/berths/{id}/bookings`. A named
 * method beats `*`.
 */
export class SegmentTrie<T> {
  readonly #root = new TrieNode<T>();

  add(address: OperationAddress, value: T): void {
    let node = this.#root;
    const entry = { method: address.method, names: address.names, value };
    for (const segment of address.segments) {
      if (segment.kind === 'tail') {
        node.tails.push(entry);
        return;
      }
      if (segment.kind === 'literal') node = literalChild(node, segment.text);
      else node = segment.kind === 'mixed' ? mixedChild(node, segment) : parameterChild(node);
    }
    node.ends.push(entry);
  }

  match(method: string, path: string): TrieMatch<T> {
    const segments = splitPath(path);
    if (segments.length > MOST_SEGMENTS) return NONE;
    const values: string[] = [];
    const methods: string[] = [];
    const entry = find(this.#root, segments, 0, method, values, methods);
    if (entry !== null) return { kind: 'found', value: entry.value, names: entry.names, values };
    return methods.length > 0 ? { kind: 'other-method', methods: [...new Set(methods)] } : NONE;
  }
}

const NONE = { kind: 'none' } as const;

/** By hand: on the path of every call, and several times as fast as `split`. */
function splitPath(path: string): string[] {
  const segments: string[] = [];
  let begin = 1;
  for (let end = path.indexOf('/', begin); end >= 0; end = path.indexOf('/', begin)) {
    segments.push(path.slice(begin, end));
    begin = end + 1;
  }
  segments.push(path.slice(begin));
  return path.includes('%') ? segments.map(decodeSegment) : segments;
}

function literalChild<T>(node: TrieNode<T>, text: string): TrieNode<T> {
  const child = node.literals.get(text) ?? new TrieNode<T>();
  node.literals.set(text, child);
  return child;
}

function parameterChild<T>(node: TrieNode<T>): TrieNode<T> {
  node.parameter ??= new TrieNode<T>();
  return node.parameter;
}

function mixedChild<T>(node: TrieNode<T>, segment: MixedSegment): TrieNode<T> {
  node.mixed ??= [];
  const known = node.mixed.find((child) => segmentShape(child.segment) === segmentShape(segment));
  if (known !== undefined) return known.node;
  const child = { segment, node: new TrieNode<T>() };
  node.mixed.push(child);
  node.mixed.sort((a, b) => weighMixedSegment(b.segment) - weighMixedSegment(a.segment));
  return child.node;
}

/** Depth-first in order of precedence; `values` holds the parameters of the path walked so far. */
function find<T>(
  node: TrieNode<T>,
  segments: readonly string[],
  at: number,
  method: string,
  values: string[],
  methods: string[],
): TrieEntry<T> | null {
  if (at === segments.length) {
    const entry = choose(node.ends, method, methods);
    if (entry !== null) return entry;
  } else {
    const segment = segments[at] ?? '';
    const literal = node.literals.get(segment);
    const byLiteral = literal === undefined ? null : find(literal, segments, at + 1, method, values, methods);
    if (byLiteral !== null) return byLiteral;
    if (node.mixed !== null) {
      for (const child of node.mixed) {
        const own = matchMixedSegment(child.segment, segment);
        if (own === null) continue;
        values.push(...own);
        const byMixed = find(child.node, segments, at + 1, method, values, methods);
        if (byMixed !== null) return byMixed;
        values.length -= own.length;
      }
    }
    if (node.parameter !== null && segment !== '') {
      values.push(segment);
      const byParameter = find(node.parameter, segments, at + 1, method, values, methods);
      if (byParameter !== null) return byParameter;
      values.pop();
    }
  }
  if (node.tails.length === 0 || at >= segments.length) return null;
  const tail = choose(node.tails, method, methods);
  if (tail !== null) values.push(segments.slice(at).join('/'));
  return tail;
}

function choose<T>(entries: readonly TrieEntry<T>[], method: string, methods: string[]): TrieEntry<T> | null {
  let any: TrieEntry<T> | null = null;
  for (const entry of entries) {
    if (entry.method === method) return entry;
    if (entry.method === '*') any ??= entry;
    else methods.push(entry.method);
  }
  return any;
}
