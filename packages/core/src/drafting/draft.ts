import type { BesideFiles } from '../definition/beside/service-text.js';
import type { Fidelity } from './fidelity.js';

/** One thing a draft concluded, with what it was concluded from. */
export interface DraftDecision {
  /** Names the decision when it is to be overruled: `path /berths/{}`, `records bookings`. */
  readonly id?: string;
  /** Where in the draft: an operation, a case, or `draft` for the whole. */
  readonly of: string;
  readonly concluded: string;
  readonly evidence: string;
  /** From 0 to 1: how much speaks for it. */
  readonly confidence?: number;
}

/** How far a draft goes: answers as they were heard; values carried from call to call; rows that live. */
export const DRAFT_LEVELS = ['as-heard', 'carried', 'alive'] as const;
export type DraftLevel = (typeof DRAFT_LEVELS)[number];

/** A proposed service file, and why it is as it is. */
export interface Draft {
  readonly service: string;
  readonly text: string;
  /** Large bodies, in files beside the service file. */
  readonly files: BesideFiles;
  readonly operations: number;
  readonly cases: number;
  /** The level it was drafted at; null for a draft from a contract. */
  readonly level: DraftLevel | null;
  /** How its own session fares against it; null for a draft from a contract. */
  readonly fidelity: Fidelity | null;
  readonly decisions: readonly DraftDecision[];
  /** What could not be used, with its place in the source; the rest works. */
  readonly unusable: readonly { readonly at: string; readonly reason: string }[];
}
