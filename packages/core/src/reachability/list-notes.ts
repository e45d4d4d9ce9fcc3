import type { CompiledService } from '../matching/compile-service.js';
import { findOverlaps } from './find-overlaps.js';
import { findUnreachable } from './find-unreachable.js';

/** Something to be known of a service that is no mistake. */
export interface ServiceNote {
  readonly operation: string;
  /** Null: it is of the operation. */
  readonly case: string | null;
  readonly message: string;
}

/** Cases that no call gets to, and paths that two operations take. */
export function listNotes(service: CompiledService): ServiceNote[] {
  const overlaps = findOverlaps(service).map(({ operations: [a, b], example, winner }) => ({
    operation: winner === a ? b : a,
    case: null,
    message: `${example} is a path of ${a} and of ${b}: ${winner} gets it, its literal comes first`,
  }));
  const unreachable = findUnreachable(service).map(({ operation, case: name, message }) => ({
    operation,
    case: name,
    message,
  }));
  return [...unreachable, ...overlaps];
}
