import { type CompiledOperation, findUnreachable, listVariables, readAnswers, type ServiceFile } from '@upsetter/core';
import type { OperationView, ServiceSummary, ServiceView } from '@upsetter/core/wire';
import type { StoredRevision } from '@upsetter/store';
import type { MinuteCount } from '../calls/minute-counts.js';
import type { Mock } from './mock.js';

/** A mock as the catalogue lists it. */
export function viewMock(mock: Mock, lastMinute: MinuteCount, contractFindings: number | null): ServiceSummary {
  const { compiled } = mock.live;
  return {
    name: mock.name,
    version: mock.live.version,
    title: compiled.definition.title ?? null,
    revision: mock.saved.revision,
    address: mock.listener?.address ?? null,
    trouble: mock.trouble,
    operations: compiled.operations.length,
    cases: compiled.operations.reduce((sum, operation) => sum + operation.cases.length, 0),
    contractFindings,
    upsetsInForce: (mock.live.upsets ?? []).map((upset) => upset.name),
    callsLastMinute: lastMinute.calls,
    straysLastMinute: lastMinute.strays,
    savedAt: new Date(mock.saved.savedAtMs).toISOString(),
  };
}

/** A mock with its file, its ladders of cases and its upsets. */
export function viewMockDetail(mock: Mock, lastMinute: MinuteCount, contractFindings: number | null): ServiceView {
  return {
    ...viewMock(mock, lastMinute, contractFindings),
    file: mock.saved.file,
    files: { ...mock.saved.files },
    operationList: viewOperations(mock),
    variables:
      mock.live.compiled.definition.variables === undefined ? [] : listVariables(mock.saved.file, mock.saved.files),
    upsets: mock.upsets().map(({ compiled, from, inForce }) => ({ definition: compiled.definition, from, inForce })),
    refusedConnections: mock.refused.view(),
  };
}

/** Reading a file takes longer than all else here, and the same revision is looked at again and again. */
const viewed = new WeakMap<StoredRevision, readonly OperationView[]>();

function viewOperations({ saved, live: { compiled } }: Mock): OperationView[] {
  const known = viewed.get(saved);
  if (known !== undefined) return [...known];
  const textOf = readAnswers(saved.file);
  const unreachable = new Map(
    findUnreachable(compiled).map(({ operation, case: own, message }) => [`${operation} / ${own}`, message]),
  );
  const views = compiled.operations.map((operation) => {
    const definition = compiled.definition.operations[operation.name];
    return viewOperation(operation, definition, textOf, unreachable);
  });
  viewed.set(saved, views);
  return views;
}

function viewOperation(
  { name, on, cases }: CompiledOperation,
  definition: ServiceFile['operations'][string] | undefined,
  textOf: ReturnType<typeof readAnswers>,
  unreachable: ReadonlyMap<string, string>,
): OperationView {
  return {
    name,
    on,
    title: definition?.title ?? null,
    cases: cases.map(({ definition: item, conditions, added }) => ({
      case: item.case,
      when: conditions.map(({ place, comparison }) => ({
        place: place.text,
        wanted: comparison.wanted,
      })),
      answer: item.answer,
      answerText: textOf(name, item.case) ?? '',
      added: added?.from ?? null,
      unreachable: unreachable.get(`${name} / ${item.case}`) ?? null,
    })),
  };
}
