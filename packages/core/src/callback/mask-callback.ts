import { maskHeaders } from '../traffic/mask.js';
import type { SentCallback } from './sent-callback.js';

/** A callback as it may be shown and stored: secrets in headers masked. */
export function maskCallback(callback: SentCallback): SentCallback {
  return {
    ...callback,
    headers: [...maskHeaders(callback.headers)],
    tries: callback.tries.map((own) => ({ ...own, headers: [...maskHeaders(own.headers)] })),
  };
}
