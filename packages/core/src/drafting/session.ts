import type { Heard } from './heard.js';
import { nameOperation } from './operation-words.js';
import type { HeardPath } from './path-templates.js';
import type { RecordKind } from './record-kind.js';
import { kindNameAt, parameterName } from './records.js';

/** One operation of the service that was heard: method, path with named parameters, and its exchanges in order. */
export interface HeardOperation {
  readonly name: string;
  readonly method: string;
  readonly on: string;
  readonly parts: readonly (string | null)[];
  /** The parameter's name at each part; null where a literal stands. */
  readonly paramNames: readonly (string | null)[];
  /** What the parameter at each part is a key of; null where a literal stands, or nothing known. */
  readonly paramKinds: readonly (RecordKind | null)[];
  readonly heard: readonly Heard[];
  /** Why each of the parameters is one, in order. */
  readonly evidence: readonly string[];
}

export function buildOperations(paths: readonly HeardPath[], kinds: readonly RecordKind[]): HeardOperation[] {
  const taken = new Set<string>();
  const operations = paths.flatMap((path) => {
    const paramNames = path.contract?.paramNames ?? nameParameters(path, kinds);
    const paramKinds = path.parts.map((part, i) => (part === null ? kindAt(path, i, kinds) : null));
    const methods = [...new Set(path.heard.map((heard) => heard.exchange.method))];
    return methods.map((method) => ({ path, paramNames, paramKinds, method }));
  });
  return operations.map(({ path, paramNames, paramKinds, method }) => {
    const template = path.parts
      .map((part, i) => (part === null ? `{${paramNames[i]}}` : encodeURIComponent(part)))
      .join('/');
    return {
      name: nameAsContract(path, method, taken) ?? nameOperation(method, path.parts, taken),
      method,
      on: `${method} /${template}`,
      parts: path.parts,
      paramNames,
      paramKinds,
      heard: path.heard.filter((heard) => heard.exchange.method === method),
      evidence: path.evidence,
    };
  });
}

/** The contract's own name of the operation, when it has one that is not taken. */
function nameAsContract({ contract }: HeardPath, method: string, taken: Set<string>): string | null {
  const id = contract?.operationIds.get(method);
  if (id === undefined || taken.has(id)) return null;
  taken.add(id);
  return id;
}

function kindAt({ parts, heard }: HeardPath, index: number, kinds: readonly RecordKind[]): RecordKind | null {
  const name = kindNameAt(parts, index);
  const kind = kinds.find((candidate) => candidate.name === name);
  return kind !== undefined && heard.some((item) => kind.keys.has(item.segments[index] ?? '')) ? kind : null;
}

/** `{bookingId}`; `{imo}` where the thing's own key is called so. */
function nameParameters(path: HeardPath, kinds: readonly RecordKind[]): (string | null)[] {
  const taken = new Set<string>();
  return path.parts.map((part, i) => {
    if (part !== null) return null;
    const kind = kindAt(path, i, kinds);
    const base = parameterName(path.parts[i - 1] ?? '', kind);
    let name = base;
    for (let n = 2; taken.has(name); n++) name = `${base}${n}`;
    taken.add(name);
    return name;
  });
}
