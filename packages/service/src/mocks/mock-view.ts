import { readAnswer } from '@upsetter/core';
import type { OperationView, ServiceSummary, ServiceView } from '@upsetter/core/wire';
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
    operationList: mock.live.compiled.operations.map((operation) => viewOperation(mock, operation.name)),
    upsets: mock.upsets().map(({ compiled, from, inForce }) => ({ definition: compiled.definition, from, inForce })),
  };
}

function viewOperation(mock: Mock, name: string): OperationView {
  const operation = mock.live.compiled.operations.find((item) => item.name === name);
  const definition = mock.live.compiled.definition.operations[name];
  return {
    name,
    on: operation?.on ?? '',
    title: definition?.title ?? null,
    cases: (definition?.cases ?? []).map((item, i) => ({
      case: item.case,
      when: (operation?.cases[i]?.conditions ?? []).map(({ place, comparison }) => ({
        place: place.text,
        wanted: comparison.wanted,
      })),
      answer: item.answer,
      answerText: readAnswer(mock.saved.file, name, item.case) ?? '',
    })),
  };
}
