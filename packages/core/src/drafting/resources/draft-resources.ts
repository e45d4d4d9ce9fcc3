import type { Contract } from '../../contract/contract.js';
import type { ContractOperation } from '../../contract/contract-operation.js';
import type { ContractCase } from '../contract-cases.js';
import { findResources } from './find-resources.js';
import { makeRows } from './make-rows.js';
import { type ResourceRows, relateRows } from './relate-rows.js';
import { draftResourceCases, findRole, type ResourceCases } from './resource-cases.js';

/** How many rows each resource gets: as many for all, or as many as are named; null: none is made one. */
export type RowCounts = number | ReadonlyMap<string, number> | null;

/** The resources of a contract that become rows. */
export class DraftedResources {
  /** Those that could, whether they do or not. */
  readonly offered: readonly string[];
  readonly #contract: Contract;
  readonly #all: readonly ResourceRows[];

  constructor(contract: Contract, operations: readonly ContractOperation[], counts: RowCounts) {
    this.#contract = contract;
    const found = findResources(contract, operations);
    this.offered = found.map(({ name }) => name);
    const made = found.flatMap((resource) => {
      const count = typeof counts === 'number' ? counts : (counts?.get(resource.name) ?? null);
      return count === null ? [] : [{ resource, rows: makeRows(contract, resource, count) }];
    });
    this.#all = relateRows(made);
  }

  /** The name of the dataset that an operation is about; null: it is about none. */
  datasetOf(operation: ContractOperation): string | null {
    return findRole(operation, this.#all)?.own.resource.name ?? null;
  }

  /** An operation's cases, with rows in the place of what was made up where it is about a resource. */
  draft(operation: ContractOperation, cases: readonly ContractCase[]): ResourceCases {
    const role = findRole(operation, this.#all);
    return role === null ? { row: null, cases } : draftResourceCases(this.#contract, operation, role, cases);
  }

  /** As they stand under `datasets` of a service file, those of these names. */
  datasets(names: ReadonlySet<string>): Record<string, unknown> {
    return Object.fromEntries(
      this.#all.flatMap(({ resource: { name, key, owners }, rows }) =>
        names.has(name) ? [[name, { key: owners.length === 0 ? key : [...owners, key], rows }]] : [],
      ),
    );
  }
}
