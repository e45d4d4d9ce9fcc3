import type { OperationAddress } from '../../matching/path-template.js';
import type { RequestView } from '../../request/request-view.js';
import { isCallOf } from '../../soap/soap-address.js';
import type { ContractIndex, FoundOperation } from '../keeping/contract-index.js';
import type { LostPart } from '../keeping/schema-validator.js';
import { readSoapOperations } from './read-soap-operations.js';
import type { WsdlContract } from './wsdl-contract.js';
import { WsdlOperation } from './wsdl-operation.js';
import { splitName } from './xml-tree.js';
import { XsdValidator } from './xsd-validator.js';

const NO_NAMES: readonly string[] = [];

/** A WSDL contract by the elements and actions that calls have, whatever path they come at. */
export class WsdlIndex implements ContractIndex {
  readonly contract: WsdlContract;
  readonly operations: readonly WsdlOperation[];
  readonly basePath = '';
  readonly #validator: XsdValidator;

  constructor(contract: WsdlContract) {
    this.contract = contract;
    this.#validator = new XsdValidator(contract.schemas);
    // What cannot be used is told where the contract is drafted.
    const all = readSoapOperations(contract, () => {});
    this.operations = all.map((operation) => new WsdlOperation(contract, operation, all, this.#validator));
  }

  get root(): string {
    return this.contract.describe(this.contract.definitions[0] as never);
  }

  get lost(): readonly LostPart[] {
    const { trouble } = this.#validator;
    return trouble === null ? [] : [{ at: this.root, reason: `its schemas hold nothing against anybody: ${trouble}` }];
  }

  findByAddress({ soap }: OperationAddress): WsdlOperation | null {
    if (soap === null) return null;
    return (
      this.operations.find(({ operation: { input, action, name } }) => {
        if (input === null) return name === soap.name;
        const [namespace, local] = splitName(input.element);
        return (
          local === soap.element &&
          (soap.namespace === null || soap.namespace === namespace) &&
          (soap.action === null || soap.action === action)
        );
      }) ?? null
    );
  }

  findByCall(request: RequestView): FoundOperation | null {
    if (request.method !== 'POST') return null;
    const indexed = this.operations.find(({ address }) => address?.soap != null && isCallOf(address.soap, request));
    return indexed === undefined ? null : { indexed, pathTexts: NO_NAMES };
  }
}
