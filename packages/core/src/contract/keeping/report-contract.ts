import type { BesideFiles } from '../../definition/beside/service-text.js';
import { contractFileOf } from '../../definition/contract-key.js';
import { loadService } from '../../definition/load-service.js';
import type { PathKey, YamlSource } from '../../definition/yaml-source.js';
import type { ContractReport } from '../../wire/contract-view.js';
import { listLostDocuments } from '../beside-contract.js';
import { type CheckedCase, type ContractCheck, checkCases } from './check-cases.js';

/** Holds a saved service file against the contract it names; null when it names none, or cannot be loaded. */
export function reportContract(text: string, files: BesideFiles): ContractReport | null {
  const loaded = loadService(text, files);
  if (loaded.kind === 'refused' || loaded.service.contract === null) return null;
  const { service, source } = loaded;
  const { index, calls } = loaded.service.contract;
  const file = contractFileOf(service.definition.contract) ?? '';
  const check = placeCheck(checkCases(service, index), source);
  return { file, calls, ...check, lost: [...listLostDocuments(file, files), ...index.lost] };
}

/** A check with the line of each thing in the service file. */
export function placeCheck(check: ContractCheck, source: YamlSource): Omit<ContractReport, 'file' | 'calls' | 'lost'> {
  const at = (...path: PathKey[]) => source.position({ path });
  const indexes = new Map<string, number>();
  return {
    cases: check.cases.map((own) => {
      const index = indexes.get(own.operation) ?? 0;
      indexes.set(own.operation, index + 1);
      return placeCase(own, ['operations', own.operation, 'cases', index], source);
    }),
    unknown: check.unknown.map((own) => ({ ...own, ...at('operations', own.operation, 'on') })),
    missing: check.missing.map((own) => ({ ...own })),
    incomplete: check.incomplete.map((own) => ({ ...own, ...at('operations', own.operation, 'on') })),
  };
}

function placeCase(
  { operation, case: name, outcome, findings }: CheckedCase,
  path: readonly PathKey[],
  source: YamlSource,
): ContractReport['cases'][number] {
  return {
    operation,
    case: name,
    outcome,
    ...source.position({ path: [...path, 'case'] }),
    findings: findings.map((finding) => ({
      ...finding,
      ...source.position({ path: [...path, 'answer', ...keysInAnswer(finding.at)] }),
    })),
  };
}

/** `json $.berths[0].quay` -> json, berths, 0, quay: what is not written down there is told by what stands above it. */
function keysInAnswer(at: string): PathKey[] {
  const [kind = '', ...rest] = at.split(' ');
  if (kind === 'turn') return ['turns', 'list', Number(rest[0]) - 1, ...keysInAnswer(rest.slice(1).join(' '))];
  if (kind === 'status') return ['status'];
  if (kind === 'header') return ['headers', rest.join(' ')];
  if (kind !== 'json') return [];
  const steps = rest.join(' ').matchAll(/\.([A-Za-z_]\w*)|\[(\d+)\]|\['([^']*)'\]/g);
  return ['json', ...[...steps].map(([, name, index, quoted]) => name ?? quoted ?? Number(index))];
}
