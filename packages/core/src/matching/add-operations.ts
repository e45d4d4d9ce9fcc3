import type { PathKey } from '../definition/yaml-source.js';
import { buildCaseIndex, type CaseIndex } from './case-index.js';
import type { CompiledCase } from './compile-case.js';
import { addressShape, type OperationAddress, parseOperationAddress } from './path-template.js';

/** A case that a service has without an operation of the file: of a resource, of a token endpoint. */
export interface AddedCase {
  /** What its operation is called, where no operation of the file has the address. */
  readonly name: string;
  readonly on: string;
  readonly case: CompiledCase;
  /** Whether it gives out tokens: everybody may call it, whatever the service says, and its bodies are not kept as they are. */
  readonly givesTokens: boolean;
  /** Where the file says it. */
  readonly path: readonly PathKey[];
}

/** What of an operation has to do with its cases. */
interface OperationOfCases {
  readonly name: string;
  readonly address: OperationAddress;
  readonly cases: readonly CompiledCase[];
  readonly index: CaseIndex | null;
}

export interface AddScope<Operation> {
  readonly report: (message: string, path: readonly PathKey[]) => void;
  /** An operation that has no cases yet. */
  /** The address as calls are looked up by it. */
  readonly readAddress: (address: OperationAddress) => OperationAddress;
  readonly makeOperation: (added: AddedCase, address: OperationAddress) => Operation;
}

/**
 * The operations of a service with cases added: at the end of those of the operation that has the address, else in an
 * operation of their own, such as `vessels.list`.
 */
export function addOperations<Operation extends OperationOfCases>(
  operations: readonly Operation[],
  added: readonly AddedCase[],
  scope: AddScope<Operation>,
): Operation[] {
  const all = [...operations];
  const places = new Map(operations.map((operation, i) => [addressShape(operation.address), i]));
  for (const own of added) {
    const parsed = parseOperationAddress(own.on);
    if (parsed.kind === 'refused') {
      scope.report(`${own.on}: ${parsed.message}`, own.path);
      return all;
    }
    const address = scope.readAddress(parsed.address);
    const shape = addressShape(address);
    const place = places.get(shape);
    const known = place === undefined ? undefined : all[place];
    if (place === undefined || known === undefined) {
      places.set(shape, all.length);
      all.push(withCase(scope.makeOperation(own, address), own.case));
    } else if (known.cases.some((item) => item.name === own.case.name))
      scope.report(`${own.on} has a case \`${own.case.name}\` already, in operation \`${known.name}\``, own.path);
    else all[place] = withCase(known, own.case);
  }
  return all;
}

function withCase<Operation extends OperationOfCases>(operation: Operation, own: CompiledCase): Operation {
  const cases = [...operation.cases, own];
  return { ...operation, cases, index: buildCaseIndex(cases.map((item) => item.conditions)) };
}
