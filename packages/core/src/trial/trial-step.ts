import type { ExactPlace } from '../answer/exact-place.js';
import type { RenderedAnswer } from '../answer/rendered-answer.js';
import type { IndexedOperation } from '../contract/keeping/contract-index.js';
import type { SampleCall } from '../contract/keeping/sample-parts.js';
import { type OperationAddress, segmentShape } from '../matching/path-template.js';
import type { TriedStep } from './trial-result.js';

/** One call that a trial means to send. */
export interface TrialStep {
  readonly operation: string;
  readonly kind: TriedStep['kind'];
  readonly name: string;
  readonly address: OperationAddress;
  readonly call: SampleCall;
  /** What the case answers; null where the contract alone is asked. */
  readonly wanted: RenderedAnswer | null;
  readonly contract: IndexedOperation | null;
  /** Segments of the path that take the id of what an earlier call made. */
  readonly carries: readonly CarriedSegment[];
  /** What is compared by value. */
  readonly exact: readonly ExactPlace[];
  /** Places that the case itself asks for: what stands there stays. */
  readonly asked: readonly string[];
  /** Ids in its body are those that earlier answers gave. */
  readonly carriesBody: boolean;
}

export interface CarriedSegment {
  readonly segment: number;
  /** The path at which it was made, whatever its parameters are called. */
  readonly madeAt: string;
}

/** What a path begins with, whatever its parameters are called. */
export function shapeOfPath({ segments }: OperationAddress, length: number): string {
  return segments
    .slice(0, length)
    .map((segment) => (segment.kind === 'literal' || segment.kind === 'mixed' ? segmentShape(segment) : '{}'))
    .join('/');
}
