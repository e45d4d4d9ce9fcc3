import type { CallRecord } from '@upsetter/core';

/** Where calls are kept: each is told when it is received, and again when its answer is sent (or its caller has left). */
export interface CallLog {
  received(record: CallRecord): void;
  completed(record: CallRecord): void;
}
