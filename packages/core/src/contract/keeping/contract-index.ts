import type { RenderedAnswer } from '../../answer/rendered-answer.js';
import type { Answer } from '../../definition/answer.js';
import type { OperationAddress } from '../../matching/path-template.js';
import type { RequestView } from '../../request/request-view.js';
import type { ExchangedCall, LinkedValue } from '../read-links.js';
import type { CheckCall } from './compile-call-check.js';
import type { SampleCall, SampleParts } from './sample-parts.js';
import type { LostPart, SchemaFinding } from './schema-validator.js';

/** A response of a contract: its status (`200`, `4XX`), or what a SOAP operation answers (`answer`, `fault unknown`). */
export interface IndexedResponse {
  readonly code: string;
  /** Where it stands in the contract. */
  readonly at: string;
}

/** A call that the contract does not allow, and what is wrong with it. */
export interface HostileCall {
  readonly name: string;
  readonly call: SampleCall;
}

/** An operation of a contract of any kind, by which calls and answers are made and held against it. */
export interface IndexedOperation {
  /** `GET /berths/{berthId}`, `POST /manifests soap lodgeManifest` */
  readonly on: string;
  readonly id: string | null;
  /** Null: no service can have it. */
  readonly address: OperationAddress | null;
  /** Where it stands in the contract. */
  readonly at: string;
  /** Compiled when the first call asks for it. */
  readonly check: CheckCall;
  /** The responses that a case can answer with. */
  readonly responses: readonly IndexedResponse[];
  checkAnswer(answer: RenderedAnswer): readonly SchemaFinding[];
  /** The code of the response that an answer is; null: of none. */
  responseOf(answer: RenderedAnswer): string | null;
  /** The same of an answer as it is written down. */
  guessResponse(answer: Answer): string | null;
  /** Valid calls, at least one: what is required, from examples where there are some. */
  samples(): readonly SampleParts[];
  /** Values that are allowed at a place such as `path berthId`. */
  alternatives(place: string): readonly string[];
  /** What the contract's links make of a call: values for parameters of later ones. */
  linksOf(call: ExchangedCall): readonly LinkedValue[];
  hostileCalls(address: OperationAddress): readonly HostileCall[];
}

/** An operation that a call is of, with the texts of its path's parameters. */
export interface FoundOperation {
  readonly indexed: IndexedOperation;
  readonly pathTexts: readonly string[];
}

/** A contract by what calls and operations of services have. */
export interface ContractIndex {
  readonly operations: readonly IndexedOperation[];
  /** The document itself, by its place. */
  readonly root: string;
  /** What of it cannot be used, as far as it was asked for: nothing is held against that. */
  readonly lost: readonly LostPart[];
  /** What stands before every path by the contract's servers; empty: nothing. */
  readonly basePath: string;
  /** The operation of this very address, whatever its parameters are called. */
  findByAddress(address: OperationAddress): IndexedOperation | null;
  findByCall(request: RequestView): FoundOperation | null;
}
