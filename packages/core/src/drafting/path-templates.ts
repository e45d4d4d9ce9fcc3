import { isJsonMap } from '../definition/json-map.js';
import type { ContractPath, FindContractPath } from './contract-paths.js';
import type { Heard } from './heard.js';
import { eachMap } from './leaves.js';
import { isIdShape, shapeOf } from './value-shape.js';

/** One path with parameters in it, and what was heard there. */
export interface HeardPath {
  /** Literal segments as they are, parameters as null. */
  readonly parts: readonly (string | null)[];
  readonly heard: readonly Heard[];
  /** Why each of the parameters is one, in order. */
  readonly evidence: readonly string[];
  /** What a contract calls it; null where none does. */
  readonly contract: ContractPath | null;
}

/** What the user said about paths: `/berths/{}` -> literal, `/berths/free` -> value. */
export type PathOverrules = ReadonlyMap<string, string>;

/** A path as overrules name it: parameters are `{}`. */
export function pathId(parts: readonly (string | null)[]): string {
  return `/${parts.map((part) => part ?? '{}').join('/')}`;
}

interface Node {
  readonly children: Map<string, Node>;
  readonly ends: Heard[];
}

/** Siblings of one kind that are too many to be names of operations. */
const MOST_LITERALS = 6;

/** The paths of a session with their parameters found: by the shape of segments, by values seen in answers, by their number; what a contract names is as it says. */
export function findPaths(
  all: readonly Heard[],
  overrules: PathOverrules,
  findContractPath: FindContractPath | null,
): HeardPath[] {
  const root: Node = { children: new Map(), ends: [] };
  const named = new Map<ContractPath, Heard[]>();
  for (const heard of all) {
    const contract = findContractPath?.(heard.exchange.path) ?? null;
    if (contract !== null) {
      named.set(contract, [...(named.get(contract) ?? []), heard]);
      continue;
    }
    let node = root;
    for (const segment of heard.segments) node = childOf(node, segment);
    node.ends.push(heard);
  }
  const found: HeardPath[] = [...named].map(([contract, heard]) => ({
    parts: contract.parts,
    heard,
    evidence: contract.parts.flatMap((part) => (part === null ? ['as the contract has it'] : [])),
    contract,
  }));
  collect(root, [], [], { keys: collectKeys(all), overrules }, found);
  return found.sort((a, b) => (a.heard[0]?.position ?? 0) - (b.heard[0]?.position ?? 0));
}

function shorten(segment: string): string {
  return segment.length > 12 ? `${segment.slice(0, 8)}...` : segment;
}

function childOf(node: Node, segment: string): Node {
  const child = node.children.get(segment) ?? { children: new Map(), ends: [] };
  node.children.set(segment, child);
  return child;
}

interface Knowledge {
  /** Values by which answers name things. */
  readonly keys: ReadonlySet<string>;
  readonly overrules: PathOverrules;
}

function collect(
  node: Node,
  parts: readonly (string | null)[],
  evidence: readonly string[],
  known: Knowledge,
  found: HeardPath[],
): void {
  if (node.ends.length > 0 && parts.length > 0) found.push({ parts, heard: node.ends, evidence, contract: null });
  const values = findValues(node, parts, known);
  for (const [segment, child] of node.children)
    if (!values.has(segment)) collect(child, [...parts, segment], evidence, known, found);
  if (values.size === 0) return;
  const merged: Node = { children: new Map(), ends: [] };
  for (const segment of values.keys()) mergeInto(merged, node.children.get(segment) as Node);
  const shown = [...values.keys()].slice(0, 3).map(shorten).join(', ');
  collect(
    merged,
    [...parts, null],
    [...evidence, `${shown}: ${[...new Set(values.values())].join(', ')}`],
    known,
    found,
  );
}

/** The children of a node that are values of one parameter, each with the reason. */
function findValues(node: Node, parts: readonly (string | null)[], known: Knowledge): Map<string, string> {
  const values = new Map<string, string>();
  if (known.overrules.get(pathId([...parts, null])) === 'literal') return values;
  const rest: string[] = [];
  for (const segment of node.children.keys()) {
    const reason = reasonOf(segment, parts, known);
    if (reason === null) rest.push(segment);
    else values.set(segment, reason);
  }
  const others = rest.filter((segment) => known.overrules.get(pathId([...parts, segment])) !== 'literal');
  if (values.size > 0)
    for (const segment of others)
      if (isOnlyMissing(node.children.get(segment))) values.set(segment, 'answered 404 beside known ones');
  const alike = others.filter((segment) => !values.has(segment) && /^[\w.~@ -]+$/.test(segment));
  if (
    values.size === 0 &&
    parts.length > 0 &&
    alike.length > MOST_LITERALS &&
    areAlike(alike.map((s) => node.children.get(s)))
  )
    for (const segment of alike) values.set(segment, `${alike.length} of one kind`);
  return values;
}

function reasonOf(segment: string, parts: readonly (string | null)[], { keys, overrules }: Knowledge): string | null {
  const said = overrules.get(pathId([...parts, segment]));
  if (said === 'literal' || segment === '') return null;
  if (said === 'value') return 'as you said';
  if (keys.has(segment)) return 'seen in answers';
  const shape = shapeOf(segment);
  return isIdShape(shape) ? `looks like ${shape === 'date' || shape === 'number' ? `a ${shape}` : 'an id'}` : null;
}

function isOnlyMissing(node: Node | undefined): boolean {
  if (node === undefined || node.children.size > 0) return false;
  return node.ends.every((heard) => heard.exchange.status === 404);
}

/** Leaves of one kind: the same methods, nothing below, answers with the same members. */
function areAlike(nodes: readonly (Node | undefined)[]): boolean {
  const looks = nodes.map((node) => {
    if (node === undefined || node.children.size > 0) return null;
    const methods = [...new Set(node.ends.map((heard) => heard.exchange.method))].sort();
    const answer = node.ends.find((heard) => heard.isSuccess)?.answerJson;
    return JSON.stringify([methods, isJsonMap(answer) ? Object.keys(answer).sort() : typeof answer]);
  });
  return looks[0] !== null && looks.every((look) => look === looks[0]);
}

function mergeInto(target: Node, source: Node): void {
  target.ends.push(...source.ends);
  target.ends.sort((a, b) => a.position - b.position);
  for (const [segment, child] of source.children) mergeInto(childOf(target, segment), child);
}

const KEY_NAME =
  /^_?(id|key|code|slug|name|number|no|ref|reference|uuid|handle|sku)$|(Id|_id|ID|Key|_key|Code|_code|Ref|_ref|No|_no|Number|_number|Slug|_slug)$/;

/** Values by which answers and requests name things: fields called like keys, unique in their list; answers that are lists of texts. */
function collectKeys(all: readonly Heard[]): ReadonlySet<string> {
  const keys = new Set<string>();
  for (const { answerJson, sentJson } of all) {
    for (const json of [answerJson, sentJson]) {
      eachMap(json, (map) => {
        for (const [name, value] of Object.entries(map)) {
          const isScalar = typeof value === 'string' || typeof value === 'number';
          if (isScalar && KEY_NAME.test(name)) keys.add(String(value));
          if (Array.isArray(value)) addUnique(value, keys);
        }
        return true;
      });
      if (!Array.isArray(json)) continue;
      addUnique(json, keys);
      if (json.every((item) => typeof item === 'string')) for (const item of json) keys.add(item);
    }
  }
  return keys;
}

/** In a list of maps, the first field whose texts all differ names the items. */
function addUnique(list: readonly unknown[], keys: Set<string>): void {
  if (list.length < 2 || !list.every(isJsonMap)) return;
  for (const name of Object.keys(list[0] as object)) {
    const values = list.map((item) => (item as Record<string, unknown>)[name]);
    if (values.every((value) => typeof value === 'string') && new Set(values).size === list.length) {
      for (const value of values) keys.add(value as string);
      return;
    }
  }
}
