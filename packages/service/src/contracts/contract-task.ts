import type { BesideFiles, CompletedService, ContractReport, ErrorCode, WantedPart } from '@upsetter/core';

/** What the contract thread is asked for. */
export type ContractTask =
  | { readonly kind: 'report'; readonly text: string; readonly files: BesideFiles }
  | {
      readonly kind: 'complete';
      readonly text: string;
      readonly files: BesideFiles;
      readonly wanted: WantedPart | null;
    };

/** What each kind of task comes to. */
export interface ContractTaskResults {
  readonly report: ContractReport | null;
  readonly complete: CompletedService;
}

export type ContractTaskOutcome =
  | { readonly kind: 'done'; readonly result: ContractTaskResults[ContractTask['kind']] }
  | { readonly kind: 'refused'; readonly code: ErrorCode; readonly message: string };
