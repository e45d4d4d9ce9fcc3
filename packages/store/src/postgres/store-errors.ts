import { AppError } from '@upsetter/core';

const NETWORK_CODES = new Set(['ECONNREFUSED', 'ECONNRESET', 'ENOTFOUND', 'ETIMEDOUT', 'EPIPE', 'EHOSTUNREACH']);

/** Runs something against the database; that it cannot be reached becomes `store-unavailable`. */
export async function withStoreErrors<T>(run: () => Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    throw isUnavailable(error)
      ? new AppError('store-unavailable', `the database cannot be reached: ${describe(error)}`, {}, error)
      : error;
  }
}

/** Network trouble, or a server that is starting, stopping or full (SQLSTATE classes 08, 53 and 57P). */
function isUnavailable(error: unknown): boolean {
  const { code, name, message } = error as { code?: string; name?: string; message?: string };
  if (name === 'KnexTimeoutError' || name === 'AggregateError') return true;
  if (/Connection terminated|Connection ended|not queryable|Unable to acquire a connection/i.test(message ?? ''))
    return true;
  return code !== undefined && (NETWORK_CODES.has(code) || /^(08|53|57P)/.test(code));
}

function describe(error: unknown): string {
  const { message, code } = error as { message?: string; code?: string };
  return message !== undefined && message !== '' ? message : (code ?? 'no reason given');
}
