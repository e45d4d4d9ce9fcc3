import type { IndexedOperation } from '../contract/keeping/contract-index.js';
import { OpenApiOperation } from '../contract/keeping/openapi-operation.js';
import { WsdlOperation } from '../contract/wsdl/wsdl-operation.js';
import type { Lexicon } from '../definition/lexicon.js';
import type { SoapOn } from '../matching/path-template.js';
import { type ContractCase, draftCases } from './contract-cases.js';
import { draftSoapCases } from './soap-cases.js';

/** An operation of a service, made from one of a contract. */
export interface IndexedDraft {
  readonly on: string | SoapOn;
  readonly title: string | null;
  readonly cases: readonly ContractCase[];
}

/** `lexicon`: the words of the service that gets it. */
export function draftIndexed(own: IndexedOperation, lexicon: Lexicon | null): IndexedDraft {
  if (own instanceof OpenApiOperation) {
    const cases = draftCases(own.contract.withLexicon(lexicon), own.operation, () => {});
    return { on: own.on, title: own.operation.title, cases };
  }
  if (!(own instanceof WsdlOperation)) return { on: own.on, title: null, cases: [] };
  return { on: own.soapOn, title: own.operation.title, cases: draftSoapCases(own.contract, own.operation) };
}
