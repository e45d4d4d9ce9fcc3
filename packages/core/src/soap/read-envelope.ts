import type { Element } from 'slimdom';
import type { ParsedXml } from '../xml/parse-xml.js';
import { ENVELOPE_NAMESPACES, type SoapVersion } from './soap-version.js';

/** A call's envelope. `broken`: whose fault it is by SOAP's own codes, and why. */
export type ReadEnvelope =
  | {
      readonly kind: 'envelope';
      readonly version: SoapVersion;
      readonly header: Element | null;
      /** The first element of the body; null: the body is empty. */
      readonly content: Element | null;
    }
  | { readonly kind: 'broken'; readonly role: 'sender' | 'version'; readonly reason: string };

export function readEnvelope(parsed: ParsedXml): ReadEnvelope {
  if (parsed.kind === 'broken') return broken('sender', `the body is not XML: ${parsed.reason}`);
  const root = parsed.document.documentElement;
  if (root === null || root.localName !== 'Envelope')
    return broken('sender', `a SOAP envelope is expected, not <${root?.nodeName ?? ''}>`);
  const version = versionOf(root.namespaceURI);
  if (version === null)
    return broken('version', `envelopes of SOAP 1.1 and 1.2 are read, not of ${root.namespaceURI ?? 'no namespace'}`);
  const part = (name: string) =>
    root.children.find((child) => child.localName === name && child.namespaceURI === root.namespaceURI) ?? null;
  const body = part('Body');
  if (body === null) return broken('sender', 'the envelope has no Body');
  return { kind: 'envelope', version, header: part('Header'), content: body.firstElementChild };
}

function versionOf(namespace: string | null): SoapVersion | null {
  if (namespace === ENVELOPE_NAMESPACES['1.1']) return '1.1';
  return namespace === ENVELOPE_NAMESPACES['1.2'] ? '1.2' : null;
}

function broken(role: 'sender' | 'version', reason: string): ReadEnvelope {
  return { kind: 'broken', role, reason };
}
