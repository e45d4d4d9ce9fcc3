import { AppError } from '@upsetter/core';
import type { FastifyReply, FastifyRequest } from 'fastify';
import type { Mock } from '../mocks/mock.js';

export function setRevision(reply: FastifyReply, mock: Mock): void {
  reply.header('etag', `"${mock.saved.revision}"`);
}

/** `If-Match: "7"`: the revision a change is based on; `"0"`: only when there is none yet. Null: whatever there is. */
export function readIfMatch(request: FastifyRequest): number | null {
  const header = request.headers['if-match'];
  if (header === undefined || header === '*') return null;
  const match = /^"?(\d+)"?$/.exec(header);
  if (match === null) throw new AppError('request-refused', `If-Match names a revision, such as "7", not ${header}`);
  return Number(match[1]);
}
