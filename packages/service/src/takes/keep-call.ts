import { AppError, type CallRecord, type CompiledService } from '@upsetter/core';
import type { HeardBody, RelayedCall } from '@upsetter/engine';
import type { TakeRegistry, TakeView } from './take-registry.js';

/**
 * Keeps one call that was relayed, in the take that is open for its service (or a new one). Fails with `wrong-use` when
 * the call was not relayed, or its bodies are no longer kept.
 */
export async function keepCall(
  record: CallRecord,
  compiled: CompiledService | null,
  takes: TakeRegistry,
): Promise<TakeView> {
  const upstream = compiled?.definition.upstream;
  if (record.answeredBy !== 'upstream' || upstream === undefined)
    throw new AppError(
      'wrong-use',
      `only a call that was relayed to the real service can be kept; ${record.request.method} ${record.request.target} was not`,
    );
  if (record.dropped !== null) throw new AppError('wrong-use', 'the bodies of this call were too large to be kept');
  const name = await takes.hearStray(record.service, upstream, (order) => toRelayed(record, upstream, order));
  return takes.find(name);
}

/** The body stands on the record unpacked: its coding is no longer true. */
const UNPACKED = 'content-encoding';

function toRelayed(record: CallRecord, upstream: string, order: number): RelayedCall {
  const { request } = record;
  return {
    order,
    startedAtMs: request.receivedAtMs,
    firstByteMs: Math.max(0, record.totalMs - record.delayGivenMs),
    tookMs: record.totalMs,
    method: request.method,
    upstream,
    target: request.target,
    requestHeaders: request.rawHeaders,
    requestBody: toBody(request.body),
    status: record.status ?? 0,
    responseHeaders: record.responseHeaders.flatMap((name, i, all) =>
      i % 2 === 1 || name.toLowerCase() === UNPACKED ? [] : [name, all[i + 1] ?? ''],
    ),
    responseBody: toBody(
      typeof record.responseBody === 'string' ? Buffer.from(record.responseBody) : record.responseBody,
    ),
    trouble: record.trouble,
  };
}

function toBody(bytes: Uint8Array | null): HeardBody {
  return { sizeBytes: bytes?.byteLength ?? 0, bytes: bytes ?? new Uint8Array(0) };
}
