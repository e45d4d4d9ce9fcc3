import { Contract, type ContractTexts, findReferredAddresses } from './contract.js';
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

/** The addresses of the documents that a contract's document leads to. Fails where it cannot be read. */
export function findReferred(address: string, text: string): readonly string[] {
  return isXml(text)
    ? findReferredXml(readXmlTree(text, address))
    : findReferredAddresses(readContractDocument(address, text));
}

export function isXml(text: string): boolean {
  return /^\s*</.test(text);
}
