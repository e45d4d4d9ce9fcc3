import { Contract, type ContractTexts, findReferredAddresses, type Referred } from './contract.js';
import { readContractDocument } from './contract-document.js';
import type { ContractIndex } from './keeping/contract-index.js';
import { OpenApiIndex } from './keeping/openapi-index.js';
import { findReferredXml } from './wsdl/read-schemas.js';
import { WsdlContract } from './wsdl/wsdl-contract.js';
import { WsdlIndex } from './wsdl/wsdl-index.js';
import { readXmlTree } from './wsdl/xml-tree.js';

/** A contract of any kind: WSDL where it is XML, else OpenAPI or Swagger. Fails with `file-refused` or `file-unreadable`. */
export function openContract(text: string, address?: string, texts?: ContractTexts): ContractIndex {
  return isXml(text)
    ? new WsdlIndex(new WsdlContract(text, address, texts))
    : new OpenApiIndex(new Contract(text, address, texts));
}

/** What a contract's document leads to. Fails where it cannot be read. */
export function findReferred(address: string, text: string): Referred {
  return isXml(text)
    ? { documents: findReferredXml(readXmlTree(text, address)), examples: [] }
    : findReferredAddresses(readContractDocument(address, text));
}

export function isXml(text: string): boolean {
  return /^\s*</.test(text);
}
