import type { RenderedAnswer } from '../answer/rendered-answer.js';
import { ENVELOPE_NAMESPACES, ENVELOPE_TYPES, type SoapVersion } from './soap-version.js';

/** `header` and `body` are markup; an empty header is left out. */
export function renderEnvelope(version: SoapVersion, header: string, body: string): string {
  const head = header.trim() === '' ? '' : `<soap:Header>${header}</soap:Header>`;
  return `<?xml version="1.0" encoding="utf-8"?>\n<soap:Envelope xmlns:soap="${ENVELOPE_NAMESPACES[version]}">${head}<soap:Body>${body}</soap:Body></soap:Envelope>`;
}

/** An envelope as an answer, with headers of its own: its content type, unless they have one. */
export function answerWithEnvelope(
  version: SoapVersion,
  status: number,
  headers: readonly string[],
  envelope: string,
): RenderedAnswer {
  const isTyped = headers.some((name, i) => i % 2 === 0 && name.toLowerCase() === 'content-type');
  return {
    status,
    headers: isTyped ? headers : ['content-type', ENVELOPE_TYPES[version], ...headers],
    body: envelope,
  };
}
