import { addressShape, type OperationAddress, parseOperationAddress } from '../../matching/path-template.js';
import { SegmentTrie } from '../../matching/segment-trie.js';
import type { RequestView } from '../../request/request-view.js';
import type { Contract } from '../contract.js';
import { basePathOf, readOperations } from '../read-operations.js';
import type { ContractIndex, FoundOperation } from './contract-index.js';
import { OpenApiOperation } from './openapi-operation.js';
import { type LostPart, SchemaValidator } from './schema-validator.js';

/** An OpenAPI or Swagger contract by the methods and paths that calls have: with the base path of its server, and without it. */
export class OpenApiIndex implements ContractIndex {
  readonly contract: Contract;
  readonly operations: readonly OpenApiOperation[];
  readonly basePath: string;
  readonly #validator: SchemaValidator;
  readonly #byShape = new Map<string, OpenApiOperation>();
  readonly #trie = new SegmentTrie<OpenApiOperation>();

  constructor(contract: Contract) {
    this.contract = contract;
    this.#validator = new SchemaValidator(contract);
    this.basePath = basePathOf(contract);
    this.operations = readOperations(contract, true, () => {}).map((operation) => {
      const indexed = new OpenApiOperation(contract, operation, this.#validator);
      for (const path of new Set([operation.path, operation.path.slice(this.basePath.length)]))
        this.#add(`${operation.method} ${path}`, indexed);
      return indexed;
    });
  }

  get root(): string {
    return this.contract.describe(this.contract.root());
  }

  get lost(): readonly LostPart[] {
    return this.#validator.lost;
  }

  findByAddress(address: OperationAddress): OpenApiOperation | null {
    return this.#byShape.get(addressShape(address)) ?? null;
  }

  findByCall({ method, path }: RequestView): FoundOperation | null {
    return this.#match(method, path) ?? (method === 'HEAD' ? this.#match('GET', path) : null);
  }

  #match(method: string, path: string): FoundOperation | null {
    const match = this.#trie.match(method, path);
    return match.kind === 'found' ? { indexed: match.value, pathTexts: match.values } : null;
  }

  #add(on: string, indexed: OpenApiOperation): void {
    const parsed = parseOperationAddress(on);
    // A path that no service can have has no calls either.
    if (parsed.kind === 'refused') return;
    const shape = addressShape(parsed.address);
    if (this.#byShape.has(shape)) return;
    this.#byShape.set(shape, indexed);
    this.#trie.add(parsed.address, indexed);
  }
}
