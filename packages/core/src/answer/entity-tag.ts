import { sha256 } from '@noble/hashes/sha2.js';
import type { RenderedAnswer } from './rendered-answer.js';

const TAG_BYTES = 8;
const ENCODER = new TextEncoder();

/** A strong entity tag (RFC 9110, 8.8.3) of a body: the same for the same bytes. */
export function entityTagOf(body: string | Uint8Array): string {
  const bytes = sha256(typeof body === 'string' ? ENCODER.encode(body) : body).slice(0, TAG_BYTES);
  return `"${[...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('')}"`;
}

/** Whether `If-None-Match` names the tag, by weak comparison (RFC 9110, 13.1.2). */
export function isTagNamed(header: string, tag: string): boolean {
  if (header.trim() === '*') return true;
  return header.split(',').some((item) => item.trim().replace(/^W\//, '') === tag);
}

/** Headers that a 304 still says (RFC 9110, 15.4.5). */
const OF_NOT_MODIFIED = new Set(['cache-control', 'content-location', 'date', 'etag', 'expires', 'vary']);
const OK = 200;
const NOT_MODIFIED = 304;

/** What a call is asked with, as far as entity tags go. */
export interface TagRequest {
  readonly method: string;
  readonly header: (name: string) => string | undefined;
}

/** The answer with the tag of its body; 304 in its place where the caller has that body already. */
export function serveEntityTag(answer: RenderedAnswer, request: TagRequest): RenderedAnswer {
  const { status, headers, body } = answer;
  if (body === null || status < OK || status >= 300) return answer;
  const tag = entityTagOf(body);
  const tagged = [...headers, 'etag', tag];
  const known = request.method === 'GET' || request.method === 'HEAD' ? request.header('if-none-match') : undefined;
  if (status !== OK || known === undefined || !isTagNamed(known, tag)) return { status, headers: tagged, body };
  const kept = tagged.filter((_, i) => OF_NOT_MODIFIED.has(tagged[i - (i % 2)]?.toLowerCase() ?? ''));
  return { status: NOT_MODIFIED, headers: kept, body: null };
}
