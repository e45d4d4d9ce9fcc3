import { type Document, parseXmlDocument } from 'slimdom';

/** What a text read as XML came to; a text that is none says why, with its line. */
export type ParsedXml =
  | { readonly kind: 'document'; readonly document: Document }
  | { readonly kind: 'broken'; readonly reason: string; readonly line: number };

/**
 * Reads well-formed XML 1.0 with namespaces. A document type declaration is refused: nothing here needs one, and its
 * entities make small texts large.
 */
export function parseXml(text: string): ParsedXml {
  if (text.trim() === '') return { kind: 'broken', reason: 'there is no XML', line: 1 };
  if (text.includes('<!DOCTYPE')) return { kind: 'broken', reason: 'document types are not read', line: 1 };
  try {
    return { kind: 'document', document: parseXmlDocument(text.trimStart()) };
  } catch (error) {
    const message = (error as Error).message;
    const [reason = ''] = message.split('\n');
    return { kind: 'broken', reason, line: Number(/At line (\d+)/.exec(message)?.[1] ?? 1) };
  }
}
