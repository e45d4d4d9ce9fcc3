import { type CallRecord, type CompiledService, type Explanation, explainCall, loadService } from '@upsetter/core';
import type { Store } from '@upsetter/store';

/** Why a call was answered as it was: by the table that answered it, or the revision it names when it is read back. */
export async function explainRecord(record: CallRecord, store: Store): Promise<Explanation> {
  const compiled = record.compiled ?? (await loadRevision(record, store));
  if (compiled === null)
    return { summary: `revision ${record.revision} of ${record.service} is no longer kept`, ladder: [] };
  const explanation = explainCall(compiled, record.request, record.found);
  const upsets =
    record.answeredBy === 'upset' ? `the upset ${record.upsets.join(', ')} answered in the place of the case; ` : '';
  const trouble = record.trouble === null ? '' : ` (${record.trouble})`;
  return { ...explanation, summary: `${upsets}${explanation.summary}${trouble}` };
}

async function loadRevision(record: CallRecord, store: Store): Promise<CompiledService | null> {
  const saved = await store.services.find(record.service, record.revision);
  const loaded = saved === null ? null : loadService(saved.file, saved.files);
  return loaded?.kind === 'loaded' ? loaded.service : null;
}
