import type { MergedDraft } from '@upsetter/core';

/** What a merge came to, as it goes over the wire. */
export function viewMerged(merged: Omit<MergedDraft, 'text' | 'files'> | null) {
  if (merged === null) return null;
  return {
    added: [...merged.added],
    changed: [...merged.changed],
    kept: [...merged.kept],
    conflicts: [...merged.conflicts],
    removed: [...merged.removed],
  };
}
