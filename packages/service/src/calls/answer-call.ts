import { AppError, answerAsHeard, answerThisCall, type CallRecord } from '@upsetter/core';
import type { AnsweredView } from '@upsetter/core/wire';
import { parse } from 'yaml';
import type { Mock } from '../mocks/mock.js';
import type { MockRegistry } from '../mocks/mock-registry.js';

const READY = { status: 200, json: {} };

/**
 * Saves the service with a case that answers such calls: with the answer that is given (YAML), else as this one was
 * answered; a stray that nobody answered gets an empty one, to be filled in. Fails with `service-unknown` or `file-refused`.
 */
export async function answerCall(record: CallRecord, given: string | null, mocks: MockRegistry): Promise<AnsweredView> {
  const mock = mocks.get(record.service);
  const { compiled } = mock.live;
  const answered = answerThisCall(mock.saved.file, compiled, {
    request: record.request,
    found: record.found,
    caseName: record.answeredBy === 'case' ? record.caseName : null,
    answer: given === null ? answerOf(record) : readAnswer(given),
  });
  const saved = await save(mocks, mock, answered.text, `answers ${record.request.method} ${record.request.path}`);
  return { service: record.service, operation: answered.operation, case: answered.case, revision: saved };
}

async function save(mocks: MockRegistry, mock: Mock, text: string, note: string): Promise<number> {
  const { mock: after } = await mocks.save(mock.name, { text }, { note, basedOn: mock.saved.revision });
  return after.saved.revision;
}

function answerOf({ answeredBy, status, responseHeaders, responseBody }: CallRecord): unknown {
  if (status === null || answeredBy === 'nobody' || answeredBy === 'access') return READY;
  const body = typeof responseBody === 'string' || responseBody === null ? responseBody : decode(responseBody);
  return answerAsHeard({ status, headers: [...responseHeaders], body });
}

function decode(bytes: Uint8Array): string {
  return new TextDecoder().decode(bytes);
}

function readAnswer(text: string): unknown {
  try {
    return parse(text, { maxAliasCount: 0 });
  } catch (error) {
    throw new AppError('request-refused', `the answer is not valid YAML: ${(error as Error).message.split('\n')[0]}`);
  }
}
