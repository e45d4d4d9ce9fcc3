import { lookup } from 'mrmime';
import type { Answer } from '../definition/answer.js';

/** The content type that a form of body has unless a header says otherwise; null: none of its own. */
const CONTENT_TYPES = {
  json: 'application/json',
  xml: 'application/xml; charset=utf-8',
  html: 'text/html; charset=utf-8',
  text: 'text/plain; charset=utf-8',
  form: 'application/x-www-form-urlencoded',
  problem: 'application/problem+json',
  base64: 'application/octet-stream',
  events: 'text/event-stream',
  none: null,
  // By its ending.
  file: null,
  // Of the version that the caller speaks.
  soap: null,
  soapFault: null,
  // By what the caller accepts.
  as: null,
  // The upstream's.
  relay: null,
} as const;

export type BodyForm = keyof typeof CONTENT_TYPES;

export function contentTypeOf(answer: Answer, form: BodyForm): string | null {
  if (form !== 'file') return CONTENT_TYPES[form];
  const type = lookup(answer.file?.name ?? '') ?? 'application/octet-stream';
  return /^text\/|^application\/(javascript|xml)$/.test(type) ? `${type}; charset=utf-8` : type;
}
