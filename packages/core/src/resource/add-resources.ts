import type { ResourceDefinition } from '../definition/resource.js';
import { buildCaseIndex, type CaseIndex } from '../matching/case-index.js';
import type { CompiledCase } from '../matching/compile-case.js';
import { addressShape, type OperationAddress, parseOperationAddress } from '../matching/path-template.js';
import { compileResource, RESOURCE_CASE, type ResourceOperation, type ResourceScope } from './compile-resource.js';

/** What of an operation a resource has to do with. */
interface OperationOfCases {
  readonly name: string;
  readonly address: OperationAddress;
  readonly cases: readonly CompiledCase[];
  readonly index: CaseIndex | null;
}

/**
 * The operations of a service with those of its resources: where the file has an operation with the address of one, the
 * resource's case stands at the end of its cases; otherwise there is an operation of its own, such as `vessels.list`.
 */
export function addResources<Operation extends OperationOfCases>(
  resources: Readonly<Record<string, ResourceDefinition>>,
  operations: readonly Operation[],
  scope: ResourceScope,
  makeOperation: (name: string, on: string, address: OperationAddress) => Operation,
): Operation[] {
  const all = [...operations];
  const places = new Map(operations.map((operation, i) => [addressShape(operation.address), i]));
  for (const [name, definition] of Object.entries(resources)) {
    const path = ['resources', name];
    for (const own of compileResource(name, definition, path, scope)) {
      const parsed = parseOperationAddress(own.on);
      if (parsed.kind === 'refused') {
        scope.report(`${own.on}: ${parsed.message}`, [...path, 'at']);
        break;
      }
      const shape = addressShape(parsed.address);
      const place = places.get(shape);
      const known = place === undefined ? undefined : all[place];
      if (place === undefined || known === undefined) {
        places.set(shape, all.length);
        all.push(withCase(makeOperation(own.name, own.on, parsed.address), own));
      } else if (known.cases.some((item) => item.name === RESOURCE_CASE))
        scope.report(`${own.on} has a case \`${RESOURCE_CASE}\` already, in operation \`${known.name}\``, [
          ...path,
          'at',
        ]);
      else all[place] = withCase(known, own);
    }
  }
  return all;
}

function withCase<Operation extends OperationOfCases>(operation: Operation, own: ResourceOperation): Operation {
  const cases = [...operation.cases, own.case];
  return { ...operation, cases, index: buildCaseIndex(cases.map((item) => item.conditions)) };
}
