import { AppError } from '@upsetter/core';

const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|\[?::1\]?)$/;

/** Calls leave this machine only for hosts that the person at the command line named. `what`: strays may not be relayed. Fails with `upstream-refused`. */
export function refuseHost(url: string, allowedHosts: readonly string[], what: string): void {
  const refusal = refusalOf(url, allowedHosts, what);
  if (refusal !== null) throw new AppError('upstream-refused', refusal);
}

/** The same as a text; null: it may. */
export function refusalOf(url: string, allowedHosts: readonly string[], what: string): string | null {
  const { hostname } = new URL(url);
  if (LOOPBACK.test(hostname) || allowedHosts.includes(hostname)) return null;
  return `${what} ${hostname}: only loopback and hosts named with --allow`;
}
