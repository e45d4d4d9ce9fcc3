import type { CallRecord } from '../call/call-record.js';
import { MASK } from '../traffic/mask.js';

const ENCODER = new TextEncoder();

/** What was sent for a token and the token itself are not kept: neither stands in the log, the database or the console. */
export function maskTokenCall(record: CallRecord): void {
  const { request, responseBody } = record;
  const sent = request.text();
  const masked = sent.replaceAll(/(^|&)(client_secret)=[^&]*/g, `$1$2=${MASK}`);
  if (masked !== sent) request.body = ENCODER.encode(masked);
  if (typeof responseBody === 'string')
    record.responseBody = responseBody.replace(/("access_token":)"[^"]*"/, `$1"${MASK}"`);
}
