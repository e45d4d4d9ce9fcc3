import { Contract, type ContractTexts } from '../contract/contract.js';
import { isXml } from '../contract/open-contract.js';
import { basePathOf, readOperations } from '../contract/read-operations.js';
import { readSoapOperations } from '../contract/wsdl/read-soap-operations.js';
import { soapOnOf } from '../contract/wsdl/soap-on.js';
import { prefixesOf } from '../contract/wsdl/soap-sample.js';
import { WSDL, WsdlContract } from '../contract/wsdl/wsdl-contract.js';
import { childrenOf } from '../contract/wsdl/xml-tree.js';
import type { Lexicon } from '../definition/lexicon.js';
import type { SoapOn } from '../matching/path-template.js';
import { type DraftedWebhook, draftWebhooks } from './contract-callbacks.js';
import { draftCases } from './contract-cases.js';
import { DraftedResources, type RowCounts } from './resources/draft-resources.js';
import type { ResourceCases } from './resources/resource-cases.js';
import { draftSoapCases } from './soap-cases.js';

/** What cannot be used of a source, with its place. */
export interface Unusable {
  readonly at: string;
  readonly reason: string;
}

/** An operation as a contract has it, ready to be drafted. */
export interface SourceOperation {
  readonly id: string | null;
  readonly title: string | null;
  readonly method: string;
  readonly path: string;
  readonly tags: readonly string[];
  readonly on: string | SoapOn;
  readonly at: string;
  /** The dataset that it is about; null: none. */
  readonly dataset: string | null;
  readonly draft: () => ResourceCases;
}

/** A contract of any kind as what is drafted of it. */
export interface DraftSource {
  readonly title: string;
  readonly version: string;
  /** What stands before each path by the contract's servers. */
  readonly base: string;
  readonly operations: readonly SourceOperation[];
  readonly namespaces: Readonly<Record<string, string>>;
  /** What could become rows. */
  readonly offered: readonly string[];
  /** Calls that the service makes by itself: nothing says which operation leads to them. */
  readonly webhooks: readonly DraftedWebhook[];
  /** Datasets of these names, as a service file has them. */
  readonly datasets: (names: ReadonlySet<string>) => Readonly<Record<string, unknown>>;
  /** Grows while operations are drafted. */
  readonly unusable: readonly Unusable[];
}

export interface SourceOptions {
  readonly address?: string;
  readonly texts?: ContractTexts;
  readonly base?: boolean;
  readonly lexicon?: Lexicon | null;
  readonly rows?: RowCounts;
}

export function openDraftSource(text: string, options: SourceOptions): DraftSource {
  return isXml(text) ? openWsdl(text, options) : openOpenApi(text, options);
}

function openOpenApi(
  text: string,
  { address, texts, base = true, lexicon = null, rows = null }: SourceOptions,
): DraftSource {
  const contract = new Contract(text, address, texts, lexicon);
  const unusable: Unusable[] = [];
  const report = (node: Parameters<typeof contract.describe>[0], reason: string) =>
    unusable.push({ at: contract.describe(node), reason });
  const info = (key: string): string => {
    const value = contract.at(contract.root(), 'info', key)?.value;
    return value === undefined || value === null ? '' : String(value);
  };
  const all = readOperations(contract, base, report);
  const resources = new DraftedResources(contract, all, rows);
  const operations = all.map((operation): SourceOperation => {
    const { id, title, method, path, tags, node } = operation;
    return {
      id,
      title,
      method,
      path,
      tags,
      on: `${method} ${path}`,
      get at() {
        return contract.describe(node);
      },
      dataset: resources.datasetOf(operation),
      draft: () => {
        return resources.draft(operation, draftCases(contract, operation, report));
      },
    };
  });
  return {
    title: info('title'),
    version: info('version'),
    base: basePathOf(contract),
    operations,
    namespaces: {},
    offered: resources.offered,
    webhooks: draftWebhooks(contract),
    datasets: (names) => resources.datasets(names),
    unusable,
  };
}

function openWsdl(text: string, { address, texts }: SourceOptions): DraftSource {
  const contract = new WsdlContract(text, address, texts);
  const unusable: Unusable[] = [...contract.lost];
  const all = readSoapOperations(contract, (node, reason) => unusable.push({ at: contract.describe(node), reason }));
  const [service] = contract.definitions.flatMap((root) => childrenOf(root, WSDL, 'service'));
  const operations = all.map((operation): SourceOperation => {
    const { name, title, path, node } = operation;
    return {
      id: name,
      title,
      method: 'POST',
      path,
      tags: [],
      on: soapOnOf(operation, all),
      at: contract.describe(node),
      dataset: null,
      draft: () => ({ row: null, cases: draftSoapCases(contract, operation) }),
    };
  });
  const own = new Set(contract.schemas.schemas.map(({ targetNamespace }) => targetNamespace));
  const namespaces = Object.fromEntries(
    [...prefixesOf(contract)].flatMap(([namespace, prefix]) => (own.has(namespace) ? [[prefix, namespace]] : [])),
  );
  const title = service?.attributes['name'] ?? contract.definitions[0]?.attributes['name'] ?? '';
  return {
    title,
    version: '',
    base: '',
    operations,
    namespaces,
    offered: [],
    webhooks: [],
    datasets: () => ({}),
    unusable,
  };
}
