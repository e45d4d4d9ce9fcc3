import { AppError } from '@upsetter/core';
import type { FastifyRequest } from 'fastify';

const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|\[::1\])(:\d+)?$/i;

/**
 * Refuses requests that name another host, or that a page of another origin sends: a page in the browser must not reach
 * the control API by a host name of its own (DNS rebinding).
 */
export async function guardHost(request: FastifyRequest): Promise<void> {
  const { host, origin } = request.headers;
  if (host === undefined || !LOOPBACK.test(host))
    throw new AppError('host-refused', `the host ${host ?? '(none)'} is not loopback`);
  if (origin !== undefined && !LOOPBACK.test(origin.replace(/^https?:\/\//, '')))
    throw new AppError('host-refused', `pages of ${origin} may not call the control API`);
}
