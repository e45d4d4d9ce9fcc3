import { type CallRecord, maskTarget, NO_SECRETS } from '@upsetter/core';
import { toDetail } from './call-row.js';

/** One record as a line of COPY's text format. Source: https://www.postgresql.org/docs/15/sql-copy.html#id-1.9.3.55.9.2 */
export function toCopyLine(record: CallRecord): string {
  const { request } = record;
  return `${[
    request.id,
    escapeCopy(record.service),
    nullable(record.version),
    record.revision,
    nullable(record.operation),
    nullable(record.caseName),
    escapeCopy(request.lane),
    record.answeredBy,
    record.isStray ? 't' : 'f',
    record.state,
    escapeCopy(request.method),
    escapeCopy(maskTarget(request.target, record.compiled?.secrets ?? NO_SECRETS)),
    record.status ?? '\\N',
    escapeCopy(JSON.stringify(toDetail(record))),
    toHex(request.body),
    toHex(record.responseBody),
  ].join('\t')}\n`;
}

function nullable(text: string | null): string {
  return text === null ? '\\N' : escapeCopy(text);
}

const SPECIAL = /[\\\t\n\r\0]/;
const ESCAPES: Readonly<Record<string, string>> = { '\\': '\\\\', '\t': '\\t', '\n': '\\n', '\r': '\\r', '\0': '' };

function escapeCopy(text: string): string {
  return SPECIAL.test(text) ? text.replace(/[\\\t\n\r\0]/g, (c) => ESCAPES[c] ?? c) : text;
}

/** bytea in hex format; its backslash is doubled for COPY. */
function toHex(body: string | Uint8Array | null): string {
  if (body === null) return '\\N';
  const bytes =
    typeof body === 'string' ? Buffer.from(body) : Buffer.from(body.buffer, body.byteOffset, body.byteLength);
  return `\\\\x${bytes.toString('hex')}`;
}
