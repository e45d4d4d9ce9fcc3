import { listNotes, type MergedDraft } from '@upsetter/core';
import type { Mock } from '../../mocks/mock.js';
import { viewMerged } from '../../mocks/view-merged.js';

/** What a save came to. */
export function viewSaved(mock: Mock, created: boolean, changed: boolean, merged: MergedDraft | null = null) {
  return {
    name: mock.name,
    revision: mock.saved.revision,
    address: mock.listener?.address ?? null,
    trouble: mock.trouble,
    created,
    changed,
    notes: listNotes(mock.live.compiled),
    keptRows: [...mock.keptRows],
    merged: viewMerged(merged),
  };
}
