import { addressShape, type OperationAddress, parseOperationAddress } from '../../matching/path-template.js';
import { SegmentTrie } from '../../matching/segment-trie.js';
import type { Contract } from '../contract.js';
import type { ContractOperation } from '../contract-operation.js';
import { readOperations } from '../read-operations.js';
import { type CheckCall, compileCallCheck } from './compile-call-check.js';
import { SchemaValidator } from './schema-validator.js';

/** An operation of a contract with its check, which is compiled when the first call asks for it. */
export class IndexedOperation {
  readonly operation: ContractOperation;
  readonly #compile: () => CheckCall;
  #check: CheckCall | null = null;

  constructor(operation: ContractOperation, compile: () => CheckCall) {
    this.operation = operation;
    this.#compile = compile;
  }

  get check(): CheckCall {
    this.#check ??= this.#compile();
    return this.#check;
  }
}

/** A contract by the methods and paths that calls have: with the base path of its server, and without it. */
export class ContractIndex {
  readonly contract: Contract;
  readonly validator: SchemaValidator;
  readonly operations: readonly IndexedOperation[];
  readonly #byShape = new Map<string, IndexedOperation>();
  readonly #trie = new SegmentTrie<IndexedOperation>();

  constructor(contract: Contract) {
    this.contract = contract;
    this.validator = new SchemaValidator(contract);
    const plain = readOperations(contract, false, () => {});
    this.operations = readOperations(contract, true, () => {}).map((operation, i) => {
      const indexed = new IndexedOperation(operation, () => compileCallCheck(contract, operation, this.validator));
      for (const path of new Set([operation.path, plain[i]?.path ?? operation.path]))
        this.#add(`${operation.method} ${path}`, indexed);
      return indexed;
    });
  }

  /** The operation of this very method and path template, whatever its parameters are called. */
  findByAddress(address: OperationAddress): IndexedOperation | null {
    return this.#byShape.get(addressShape(address)) ?? null;
  }

  /** The operation that a call is of, with the texts of its path's parameters. */
  findByCall(method: string, path: string): { indexed: IndexedOperation; pathTexts: readonly string[] } | null {
    const match = this.#trie.match(method, path);
    if (match.kind === 'found') return { indexed: match.value, pathTexts: match.values };
    return method === 'HEAD' ? this.findByCall('GET', path) : null;
  }

  #add(on: string, indexed: IndexedOperation): void {
    const parsed = parseOperationAddress(on);
    // A path that no service can have has no calls either.
    if (parsed.kind === 'refused') return;
    const shape = addressShape(parsed.address);
    if (this.#byShape.has(shape)) return;
    this.#byShape.set(shape, indexed);
    this.#trie.add(parsed.address, indexed);
  }
}
