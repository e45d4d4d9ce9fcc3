import { type CallRecord, type CompiledService, type Explanation, explainCall, loadService } from '@upsetter/core';
import type { Store } from '@upsetter/store';

/** Why a call was answered as it was: by the table that answered it, or the revision it names when it is read back. */
export async function explainRecord(record: CallRecord, store: Store): Promise<Explanation> {
  const compiled = record.compiled ?? (await loadRevision(record, store));
  if (compiled === null)
    return { summary: `revision ${record.revision} of ${record.service} is no longer kept`, ladder: [] };
  const explanation = explainCall(compiled, record.request, record.found);
  const before = describeBefore(record);
  const isTold = record.trouble === null || record.answeredBy === 'access';
  const trouble = isTold ? '' : ` (${record.trouble})`;
  const ladder = before === '' ? explanation.ladder : explanation.ladder.map(withoutAnswer);
  const notes = record.notes === null ? {} : { notes: [...record.notes] };
  return { ladder, summary: `${before}${explanation.summary}${trouble}`, ...notes };
}

/** The case whose conditions hold did not answer: something stood before it. */
function withoutAnswer(operation: Explanation['ladder'][number]): Explanation['ladder'][number] {
  const cases = operation.cases.map((own) =>
    own.outcome === 'answered' ? { ...own, outcome: 'would answer' as const } : own,
  );
  return { ...operation, cases };
}

/** What answered before any case could. */
function describeBefore({ answeredBy, upsets, findings, trouble, status }: CallRecord): string {
  if (answeredBy === 'access') return `refused: ${trouble}; without the refusal: `;
  if (answeredBy === 'upset')
    return `the upset ${upsets.join(', ')} ${status === null ? 'broke the call' : 'answered in the place of the case'}; `;
  if (answeredBy !== 'contract') return '';
  const first = findings?.find(({ refusal }) => refusal !== null);
  if (first === undefined) return 'the contract itself was asked for and is answered; ';
  return `refused by the contract: ${first.at} ${first.message}; without the refusal: `;
}

async function loadRevision(record: CallRecord, store: Store): Promise<CompiledService | null> {
  const saved = await store.services.find(record.service, record.revision);
  const loaded = saved === null ? null : loadService(saved.file, saved.files);
  return loaded?.kind === 'loaded' ? loaded.service : null;
}
