import { type CallRecord, type DroppedBody, maskCallback, maskHeaders, maskTarget, NO_SECRETS } from '@upsetter/core';
import type { CallDetail, CallSummary, KeptBody } from '@upsetter/core/wire';

const DECIMALS = 1000;

/** A record as the API lists it; times in milliseconds, to the microsecond. */
export function viewCall(record: CallRecord): CallSummary {
  const { request } = record;
  return {
    id: request.id,
    at: new Date(request.receivedAtMs).toISOString(),
    service: record.service,
    version: record.version,
    revision: record.revision,
    operation: record.operation,
    case: record.caseName,
    lane: request.lane,
    answeredBy: record.answeredBy,
    stray: record.isStray,
    state: record.state,
    method: request.method,
    url: maskTarget(request.target, record.compiled?.secrets ?? NO_SECRETS),
    status: record.status,
    upsets: [...record.upsets],
    ownMs: round(record.ownMs),
    delayAskedMs: round(record.delayAskedMs),
    delayGivenMs: round(record.delayGivenMs),
    totalMs: round(record.totalMs),
    trouble: record.trouble,
    findings: record.findings?.length ?? 0,
    callbacks: record.callbacks?.length ?? 0,
    callbacksFailed: record.callbacks?.filter(({ state }) => state === 'failed').length ?? 0,
  };
}

/** A record with headers (secrets masked) and bodies. */
export function viewCallDetail(record: CallRecord): CallDetail {
  return {
    ...viewCall(record),
    findingList: [...(record.findings ?? [])],
    callbackList: (record.callbacks ?? []).map(maskCallback),
    requestHeaders: [...maskHeaders(record.request.rawHeaders, record.compiled?.secrets)],
    requestBody: viewBody(record.request.body, record.dropped?.request ?? null),
    responseHeaders: [...maskHeaders(record.responseHeaders)],
    responseBody: viewBody(record.responseBody, record.dropped?.response ?? null),
  };
}

function round(ms: number): number {
  return Math.round(ms * DECIMALS) / DECIMALS;
}

function viewBody(body: string | Uint8Array | null, dropped: DroppedBody | null): KeptBody {
  if (dropped !== null) return { sizeBytes: dropped.sizeBytes, text: null, base64: null, sha256: dropped.sha256 };
  if (body === null) return { sizeBytes: 0, text: null, base64: null, sha256: null };
  const text = typeof body === 'string' ? body : decodeText(body);
  const sizeBytes = Buffer.byteLength(body);
  return text === null
    ? { sizeBytes, text, base64: Buffer.from(body as Uint8Array).toString('base64'), sha256: null }
    : { sizeBytes, text, base64: null, sha256: null };
}

/** The bytes as text when they are valid UTF-8, else null. */
function decodeText(bytes: Uint8Array): string | null {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return null;
  }
}
