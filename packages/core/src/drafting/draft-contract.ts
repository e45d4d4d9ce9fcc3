import { Contract, type ContractTexts } from '../contract/contract.js';
import type { ContractOperation } from '../contract/contract-operation.js';
import { basePathOf, readOperations } from '../contract/read-operations.js';
import { filesOf, splitBodies, withReferences } from '../definition/beside/split-bodies.js';
import { writeServiceFile } from '../definition/write-service-file.js';
import type { CompiledService } from '../matching/compile-service.js';
import { addressShape, parseOperationAddress } from '../matching/path-template.js';
import { chooseOperations, type OperationChoice } from './choose-operations.js';
import { type ContractCase, draftCases } from './contract-cases.js';
import type { Draft, DraftDecision } from './draft.js';
import { operationName } from './operation-name.js';

export interface DraftContractOptions extends Partial<OperationChoice> {
  readonly service: string | null;
  readonly port: number | null;
  /** Where the contract was read from, so that its references to other files can be followed. */
  readonly address?: string;
  /** The documents it refers to, by their addresses. */
  readonly texts?: ContractTexts;
  /** Whether the base path of the first server stands before each path; it does unless said otherwise. */
  readonly base?: boolean;
  /** The contract's name beside the service file, which names it then; left out: the draft does not follow it. */
  readonly follow?: string | null;
  /** A service that is there: what it answers already, with the base path or without it, is not drafted. */
  readonly beside?: CompiledService;
}

/** A service from an OpenAPI 3.0 or 3.1 or Swagger 2.0 contract: an operation for each of its own, cases from its examples, else generated from its schemas. */
export function draftContract(text: string, options: DraftContractOptions): Draft {
  const contract = new Contract(text, options.address, options.texts);
  const unusable: { at: string; reason: string }[] = [];
  const decisions: DraftDecision[] = [];
  const all = readOperations(contract, options.base ?? true, (node, reason) =>
    unusable.push({ at: contract.describe(node), reason }),
  );
  const chosen = chooseOperations(all, { only: options.only ?? [], without: options.without ?? [] });
  if (chosen.length < all.length)
    decisions.push({
      of: 'draft',
      concluded: `left out ${all.length - chosen.length} of ${all.length} operations`,
      evidence: 'as you said',
    });
  const missing = leaveOutKnown(contract, chosen, options.beside ?? null, decisions);
  const shapes = new Map<string, string>();
  const taken = new Set<string>(options.beside?.operations.map(({ name }) => name));
  const operations: Record<string, unknown> = {};
  let cases = 0;
  for (const operation of missing) {
    const on = `${operation.method} ${operation.path}`;
    const reason = refuseAddress(on, shapes);
    if (reason !== null) {
      unusable.push({ at: contract.describe(operation.node), reason });
      continue;
    }
    const name = nameOperation(operation, on, taken);
    const drafted = draftCases(contract, operation, (node, why) =>
      unusable.push({ at: contract.describe(node), reason: why }),
    );
    cases += drafted.length;
    decisions.push({ of: name, concluded: describeCases(drafted), evidence: contract.describe(operation.node) });
    const title = operation.title === null ? {} : { title: operation.title };
    operations[name] = { on, ...title, cases: drafted.map((item) => item.definition) };
  }
  const service = options.service ?? nameService(contract);
  const version = infoText(contract, 'version');
  const definition = {
    upsetter: 1,
    service,
    ...(version === '' ? {} : { version }),
    ...(options.port === null ? {} : { listen: { port: options.port } }),
    ...(options.follow == null ? {} : { contract: options.follow }),
    operations,
  };
  const comment = `Drafted from the contract ${infoText(contract, 'title')} ${version}`.trim();
  const bodies = splitBodies(definition, service);
  return {
    service,
    text: writeServiceFile(withReferences(definition, bodies), [{ path: [], text: comment }]),
    files: filesOf(bodies),
    operations: Object.keys(operations).length,
    cases,
    decisions,
    level: null,
    fidelity: null,
    unusable,
  };
}

/** The operations that a service does not have yet. */
function leaveOutKnown(
  contract: Contract,
  chosen: readonly ContractOperation[],
  beside: CompiledService | null,
  decisions: DraftDecision[],
): readonly ContractOperation[] {
  if (beside === null) return chosen;
  const known = new Set(beside.operations.map(({ address }) => addressShape(address)));
  const base = basePathOf(contract);
  const isKnown = ({ method, path }: ContractOperation): boolean =>
    [path, path.startsWith(`${base}/`) ? path.slice(base.length) : path, base + path].some((own) => {
      const parsed = parseOperationAddress(`${method} ${own}`);
      return parsed.kind !== 'refused' && known.has(addressShape(parsed.address));
    });
  const missing = chosen.filter((operation) => !isKnown(operation));
  if (missing.length < chosen.length)
    decisions.push({
      of: 'draft',
      concluded: `left out ${chosen.length - missing.length} of ${chosen.length} operations`,
      evidence: `${beside.name} has them already`,
    });
  return missing;
}

/** Why a service cannot have an operation at this address; null when it can. `shapes`: those it has, by what they answer. */
function refuseAddress(on: string, shapes: Map<string, string>): string | null {
  const parsed = parseOperationAddress(on);
  if (parsed.kind === 'refused') return parsed.message;
  const shape = addressShape(parsed.address);
  const twin = shapes.get(shape);
  if (twin !== undefined) return `${twin} answers the same paths already`;
  shapes.set(shape, on);
  return null;
}

function nameOperation({ id }: ContractOperation, on: string, taken: Set<string>): string {
  const name = id === null ? '' : id.replaceAll(/[^\w.-]+/g, '-').replace(/^[^A-Za-z_]+/, '');
  if (name === '' || taken.has(name)) return operationName(on, taken);
  taken.add(name);
  return name;
}

function nameService(contract: Contract): string {
  const name = infoText(contract, 'title')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^-+|-+$/g, '')
    .slice(0, 64)
    .replace(/-+$/, '');
  return name === '' ? 'service' : name;
}

function infoText(contract: Contract, key: string): string {
  const value = contract.at(contract.root(), 'info', key)?.value;
  return value === undefined || value === null ? '' : String(value);
}

function describeCases(cases: readonly ContractCase[]): string {
  const count = (from: ContractCase['from']) => cases.filter((item) => item.from === from).length;
  const words = [
    count('example') > 0 ? `${count('example')} from examples` : '',
    count('schema') > 0 ? `${count('schema')} generated from schemas` : '',
    count('nothing') > 0 ? `${count('nothing')} without a body` : '',
  ];
  return `${cases.length === 1 ? '1 case' : `${cases.length} cases`}: ${words.filter((word) => word !== '').join(', ')}`;
}
