import { parseDocument } from 'yaml';
import { addressOfBeside, listContractFiles, openBesideContract } from '../contract/beside-contract.js';
import { compareContracts } from '../contract/comparing/compare-contracts.js';
import type { ContractChange } from '../contract/comparing/contract-change.js';
import type { ContractIndex } from '../contract/keeping/contract-index.js';
import { type BesideFiles, type ServiceText, textOfBeside } from '../definition/beside/service-text.js';
import { contractFileOf } from '../definition/contract-key.js';
import type { Lexicon } from '../definition/lexicon.js';
import { requireService } from '../definition/load-service.js';
import { TextEdit } from '../definition/text-edit.js';
import { AppError } from '../errors/app-error.js';
import type { CompiledService } from '../matching/compile-service.js';
import type { Draft } from './draft.js';
import { draftContract } from './draft-contract.js';
import { type MergedDraft, mergeDraft } from './merge-draft.js';
import type { RowCounts } from './resources/draft-resources.js';

/** A version of a contract: its main file and all that it refers to, as they stand beside a service file. */
export interface ContractFiles {
  readonly name: string;
  readonly files: BesideFiles;
}

export interface FollowedContract extends ServiceText {
  /** By operation; empty where there was no version before. */
  readonly changes: readonly ContractChange[];
  /** Null: the service is new. */
  readonly merged: Omit<MergedDraft, 'text' | 'files'> | null;
  readonly unusable: Draft['unusable'];
}

/** A service drafted from a contract, which it follows. Fails with `file-refused` or `file-unreadable`. */
export function adoptContract(service: string, next: ContractFiles): FollowedContract {
  const { text, files, unusable } = draft(next, { service, base: true, lexicon: null, rows: null });
  return { text, files: { ...files, ...next.files }, changes: [], merged: null, unusable };
}

/**
 * A service brought to a newer version of its contract: what is as the version before drafted it is drafted anew, what was
 * edited by hand stays and is told, what is new is added. Fails with `file-refused` or `file-unreadable`.
 */
export function followContract(current: ServiceText, next: ContractFiles): FollowedContract {
  const service = requireService(current.text, current.files);
  const index = openBesideContract(next.name, next.files);
  const before = filesBefore(service, current);
  const isBased = usesBase(service, index);
  const lexicon = service.definition.lexicon ?? null;
  const rows = new Map(
    Object.entries(service.definition.datasets ?? {}).map(([name, own]) => [name, own.rows?.length ?? 0]),
  );
  const shape = { service: service.definition.service, base: isBased, lexicon, rows };
  const drafted = draft(next, shape);
  const old = before === null ? null : draft(before, shape);
  const { text, files, ...merged } = mergeDraft(current, drafted, old ?? { text: EMPTY, files: {} });
  const kept = Object.fromEntries(
    Object.entries(files).filter(([name]) => before === null || !Object.hasOwn(before.files, name)),
  );
  return {
    text: nameContract(text, next.name, versionOf(old), versionOf(drafted)),
    files: { ...kept, ...next.files },
    changes: before === null ? [] : compareContracts(openBesideContract(before.name, before.files), index),
    merged,
    unusable: drafted.unusable,
  };
}

/** A service that followed no contract was made by hand: nothing in it counts as drafted. */
const EMPTY = 'upsetter: 1\nservice: none\noperations: {}\n';

/** The contract that a service names, with its files; null: it names none, or it is not there. */
export function filesBefore(service: CompiledService, { files }: ServiceText): ContractFiles | null {
  const name = contractFileOf(service.definition.contract);
  if (name === null || files[name] === undefined) return null;
  const own = listContractFiles(name, files).flatMap((file) => {
    const found = files[file];
    return found === undefined ? [] : [[file, found] as const];
  });
  return { name, files: Object.fromEntries(own) };
}

/** How the service that follows was drafted, as far as it shows. */
interface DraftShape {
  readonly service: string;
  readonly base: boolean;
  readonly lexicon: Lexicon | null;
  readonly rows: RowCounts;
}

function draft({ name, files }: ContractFiles, shape: DraftShape): Draft {
  const texts = new Map(
    Object.entries(files).flatMap(([own, file]) => {
      const text = textOfBeside(file);
      return text === null ? [] : [[addressOfBeside(own), text] as const];
    }),
  );
  const address = addressOfBeside(name);
  const text = texts.get(address);
  if (text === undefined) throw new AppError('file-unreadable', `${name} is no text`);
  return draftContract(text, { ...shape, port: null, address, texts, follow: name });
}

/** Whether the paths of a service begin with the base path of the contract's server; they do unless they are seen not to. */
function usesBase({ operations }: CompiledService, { basePath }: ContractIndex): boolean {
  return (
    basePath === '' ||
    operations.length === 0 ||
    operations.some(({ address }) => address.template.startsWith(`${basePath}/`))
  );
}

function versionOf(own: Draft | null): string | null {
  const version = own === null ? undefined : parseDocument(own.text).get('version');
  return version === undefined ? null : String(version);
}

/** The file names the contract; its version goes along, unless it was changed by hand. */
function nameContract(text: string, name: string, before: string | null, now: string | null): string {
  const edit = new TextEdit(text);
  const { document } = edit;
  const key = document.get('contract');
  if (key === undefined) document.set('contract', name);
  else if (contractFileOf(typeof key === 'string' ? key : document.toJS().contract) !== name) {
    if (typeof key === 'string') document.set('contract', name);
    else document.setIn(['contract', 'file'], name);
  }
  const version = document.get('version');
  if (now !== null && (version === undefined || String(version) === before))
    document.set('version', document.createNode(now));
  return edit.write();
}
