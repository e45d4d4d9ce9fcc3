import type { CallRecord } from '@upsetter/core';
import type { CallFilter } from '../store.js';

/** Whether a call is one of those a filter asks for. */
export function isWanted(record: CallRecord, filter: CallFilter): boolean {
  if (filter.service !== null && record.service !== filter.service) return false;
  if (filter.operation !== null && record.operation !== filter.operation) return false;
  if (filter.lane !== null && record.request.lane !== filter.lane) return false;
  if (filter.straysOnly && !record.isStray) return false;
  if (filter.findingsOnly && record.findings === null) return false;
  return filter.before === null || record.request.id < filter.before;
}
