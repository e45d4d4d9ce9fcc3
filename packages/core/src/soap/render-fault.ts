import { escapeMarkup } from '../xml/markup-text.js';
import type { SoapVersion } from './soap-version.js';

/** Who is to blame: the caller, the service, or a version of SOAP that is not spoken. */
export type FaultRole = 'sender' | 'receiver' | 'version';

/** A fault, in words that both versions of SOAP have. Texts are plain, `detail` is markup; null: there is none. */
export interface SoapFault {
  readonly role: FaultRole;
  /** A code of the application's own, a name with a prefix that is declared by `detail` or none. */
  readonly subcode: string | null;
  readonly reason: string;
  /** The URI of who noticed it. */
  readonly actor: string | null;
  readonly detail: string | null;
}

const CODES: Readonly<Record<SoapVersion, Readonly<Record<FaultRole, string>>>> = {
  '1.1': { sender: 'Client', receiver: 'Server', version: 'VersionMismatch' },
  '1.2': { sender: 'Sender', receiver: 'Receiver', version: 'VersionMismatch' },
};

/** The body of an envelope that tells a fault (SOAP 1.1, 4.4; SOAP 1.2 Part 1, 5.4). */
export function renderFault(version: SoapVersion, fault: SoapFault): string {
  const code = `soap:${CODES[version][fault.role]}`;
  return version === '1.1' ? renderOld(code, fault) : renderNew(code, fault);
}

/** In 1.1 a code of the application's own stands behind the general one, with a point between them (4.4.1). */
function renderOld(code: string, { subcode, reason, actor, detail }: SoapFault): string {
  const own = subcode === null ? code : `${code}.${escapeMarkup(subcode)}`;
  return `<soap:Fault><faultcode>${own}</faultcode><faultstring>${escapeMarkup(reason)}</faultstring>${wrap('faultactor', actor === null ? null : escapeMarkup(actor))}${wrap('detail', detail)}</soap:Fault>`;
}

function renderNew(code: string, { subcode, reason, actor, detail }: SoapFault): string {
  const own = subcode === null ? '' : `<soap:Subcode><soap:Value>${escapeMarkup(subcode)}</soap:Value></soap:Subcode>`;
  return `<soap:Fault><soap:Code><soap:Value>${code}</soap:Value>${own}</soap:Code><soap:Reason><soap:Text xml:lang="en">${escapeMarkup(reason)}</soap:Text></soap:Reason>${wrap('soap:Role', actor === null ? null : escapeMarkup(actor))}${wrap('soap:Detail', detail)}</soap:Fault>`;
}

function wrap(name: string, markup: string | null): string {
  return markup === null ? '' : `<${name}>${markup}</${name}>`;
}

/** SOAP 1.1 answers every fault with 500 (6.2); in 1.2 a caller's own is 400 (Part 2, 7.5.2.2). */
export function statusOfFault(version: SoapVersion, role: FaultRole): number {
  return version === '1.2' && role === 'sender' ? 400 : 500;
}
