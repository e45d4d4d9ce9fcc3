import type { ContractTexts } from '../contract/contract.js';
import { filesOf, splitBodies, withReferences } from '../definition/beside/split-bodies.js';
import type { Lexicon } from '../definition/lexicon.js';
import { writeServiceFile } from '../definition/write-service-file.js';
import type { CompiledService } from '../matching/compile-service.js';
import { addressShape, describeOn, parseOn, parseOperationAddress, type SoapOn } from '../matching/path-template.js';
import { chooseOperations, type OperationChoice } from './choose-operations.js';
import type { ContractCase } from './contract-cases.js';
import type { Draft, DraftDecision } from './draft.js';
import { openDraftSource, type SourceOperation, type Unusable } from './draft-source.js';
import { operationName } from './operation-name.js';
import type { RowCounts } from './resources/draft-resources.js';

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
  /** The team's words; the service has them then, too. */
  readonly lexicon?: Lexicon | null;
  /** A service that is there: what it answers already, with the base path or without it, is not drafted. */
  readonly beside?: CompiledService;
  /** How many rows each resource of the contract gets; left out: they stay answers that never change. */
  readonly rows?: RowCounts;
}

/** A service from a contract (OpenAPI 3.0 or 3.1, Swagger 2.0, WSDL 1.1): an operation for each of its own, cases from its examples, else generated from its schemas. */
export function draftContract(text: string, options: DraftContractOptions): Draft {
  const source = openDraftSource(text, options);
  const decisions: DraftDecision[] = [];
  const all = source.operations;
  const chosen = chooseOperations(all, { only: options.only ?? [], without: options.without ?? [] });
  if (chosen.length < all.length)
    decisions.push({
      of: 'draft',
      concluded: `left out ${all.length - chosen.length} of ${all.length} operations`,
      evidence: 'as you said',
    });
  const missing = leaveOutKnown(source.base, chosen, options.beside ?? null, decisions);
  const { operations, cases, refused } = draftOperations(missing, options.beside ?? null, decisions);
  const datasets = source.datasets(new Set(missing.flatMap(({ dataset }) => dataset ?? [])));
  if (source.offered.length > 0) decisions.push(describeResources(source.offered, datasets));
  for (const { name, at, step } of source.webhooks)
    decisions.push({
      of: `webhook ${name}`,
      concluded: `is sent by no operation; a case that leads to it takes this under \`then\`: ${JSON.stringify(step)}`,
      evidence: at,
    });
  const { title, version } = source;
  const service = options.service ?? nameService(title);
  const definition = {
    upsetter: 1,
    service,
    ...(version === '' ? {} : { version }),
    ...(options.port === null ? {} : { listen: { port: options.port } }),
    ...(options.follow == null ? {} : { contract: options.follow }),
    ...(Object.keys(source.namespaces).length === 0 ? {} : { namespaces: source.namespaces }),
    ...(options.lexicon == null ? {} : { lexicon: options.lexicon }),
    ...(Object.keys(datasets).length === 0 ? {} : { datasets }),
    operations,
  };
  const comment = `Drafted from the contract ${title} ${version}`.trim();
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
    unusable: [...source.unusable, ...refused],
  };
}

function draftOperations(
  missing: readonly SourceOperation[],
  beside: CompiledService | null,
  decisions: DraftDecision[],
): { operations: Record<string, unknown>; cases: number; refused: Unusable[] } {
  const shapes = new Map<string, string>();
  const taken = new Set<string>(beside?.operations.map(({ name }) => name));
  const operations: Record<string, unknown> = {};
  const refused: Unusable[] = [];
  let cases = 0;
  for (const operation of missing) {
    const reason = refuseAddress(operation.on, shapes);
    if (reason !== null) {
      refused.push({ at: operation.at, reason });
      continue;
    }
    const name = nameOperation(operation, taken);
    const { row, cases: drafted } = operation.draft();
    cases += drafted.length;
    decisions.push({ of: name, concluded: describeCases(drafted), evidence: operation.at });
    for (const { doubt } of drafted)
      if (doubt != null) decisions.push({ of: name, concluded: doubt, evidence: operation.at });
    const title = operation.title === null ? {} : { title: operation.title };
    const pick = row === null ? {} : { row };
    operations[name] = { on: operation.on, ...title, ...pick, cases: drafted.map((item) => item.definition) };
  }
  return { operations, cases, refused };
}

/** The operations that a service does not have yet. */
function leaveOutKnown(
  base: string,
  chosen: readonly SourceOperation[],
  beside: CompiledService | null,
  decisions: DraftDecision[],
): readonly SourceOperation[] {
  if (beside === null) return chosen;
  const known = new Set(beside.operations.map(({ address }) => addressShape(address)));
  const isKnown = ({ method, path, on }: SourceOperation): boolean =>
    typeof on !== 'string'
      ? isKnownOn(on, known)
      : [path, path.startsWith(`${base}/`) ? path.slice(base.length) : path, base + path].some((own) => {
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

function isKnownOn(on: SoapOn, known: ReadonlySet<string>): boolean {
  const parsed = parseOn(on);
  return parsed.kind !== 'refused' && known.has(addressShape(parsed.address));
}

/** Why a service cannot have an operation at this address; null when it can. `shapes`: those it has, by what they answer. */
function refuseAddress(on: string | SoapOn, shapes: Map<string, string>): string | null {
  const parsed = parseOn(on);
  if (parsed.kind === 'refused') return parsed.message;
  const shape = addressShape(parsed.address);
  const twin = shapes.get(shape);
  if (twin !== undefined) return `${twin} answers the same paths already`;
  shapes.set(shape, describeOn(on));
  return null;
}

function nameOperation({ id, method, path }: SourceOperation, taken: Set<string>): string {
  const name = id === null ? '' : id.replaceAll(/[^\w.-]+/g, '-').replace(/^[^A-Za-z_]+/, '');
  if (name === '' || taken.has(name)) return operationName(`${method} ${path}`, taken);
  taken.add(name);
  return name;
}

function nameService(title: string): string {
  const name = title
    .replaceAll(/([a-z])([A-Z])/g, '$1-$2')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^-+|-+$/g, '')
    .slice(0, 64)
    .replace(/-+$/, '');
  return name === '' ? 'service' : name;
}

function describeResources(offered: readonly string[], datasets: Readonly<Record<string, unknown>>): DraftDecision {
  const made = Object.keys(datasets);
  const names = (own: readonly string[]) => own.join(', ').replace(/, ([^,]*)$/, ' and $1');
  return {
    of: 'draft',
    concluded:
      made.length > 0
        ? `${names(made)} are rows, which calls change`
        : `${names(offered)} could be rows, which calls change`,
    evidence: made.length > 0 ? 'the contract lists them and reads them one by one' : '--rows 5 makes five of each',
  };
}

function describeCases(cases: readonly ContractCase[]): string {
  const count = (from: ContractCase['from']) => cases.filter((item) => item.from === from).length;
  const words = [
    count('example') > 0 ? `${count('example')} from examples` : '',
    count('schema') > 0 ? `${count('schema')} generated from schemas` : '',
    count('stand-in') > 0 ? `${count('stand-in')} with a file that stands in` : '',
    count('nothing') > 0 ? `${count('nothing')} without a body` : '',
  ];
  return `${cases.length === 1 ? '1 case' : `${cases.length} cases`}: ${words.filter((word) => word !== '').join(', ')}`;
}
