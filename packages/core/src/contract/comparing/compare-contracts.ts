import { addressShape } from '../../matching/path-template.js';
import type { ContractIndex, IndexedOperation } from '../keeping/contract-index.js';
import { OpenApiOperation } from '../keeping/openapi-operation.js';
import { WsdlOperation } from '../wsdl/wsdl-operation.js';
import { compareOperations } from './compare-operations.js';
import { compareSoapOperations } from './compare-soap-operations.js';
import type { ContractChange } from './contract-change.js';

/** What a newer version of a contract changes, by operation: additions, removals, and what is another, each with whether it breaks callers. */
export function compareContracts(before: ContractIndex, now: ContractIndex): ContractChange[] {
  const key = (own: IndexedOperation): string => (own.address === null ? own.on : addressShape(own.address));
  const old = new Map(before.operations.map((own) => [key(own), own]));
  const later = new Map(now.operations.map((own) => [key(own), own]));
  const changes: ContractChange[] = [];
  for (const [shape, own] of later) {
    const was = old.get(shape);
    if (was === undefined) changes.push({ on: own.on, what: 'added', at: '', message: 'is new', breaks: false });
    else changes.push(...compareBoth(was, own).map((change) => ({ on: own.on, what: 'changed' as const, ...change })));
  }
  for (const [shape, { on }] of old)
    if (!later.has(shape)) changes.push({ on, what: 'removed', at: '', message: 'is gone', breaks: true });
  return changes;
}

function compareBoth(was: IndexedOperation, own: IndexedOperation) {
  if (was instanceof OpenApiOperation && own instanceof OpenApiOperation) return compareOperations(was, own);
  return was instanceof WsdlOperation && own instanceof WsdlOperation ? compareSoapOperations(was, own) : [];
}
