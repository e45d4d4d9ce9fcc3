import type { RequestView } from '../request/request-view.js';

/** How calls of a SOAP operation are told from others at the same path. */
export interface SoapAddress {
  readonly name: string;
  /** The local name of the body's element. */
  readonly element: string;
  /** Its namespace; null: any. */
  readonly namespace: string | null;
  /** The SOAPAction it must have as well; null: any. */
  readonly action: string | null;
}

/** `{urn:skerry:manifests}lodge` -> its namespace and its local name. */
export function parseElementName(text: string): Pick<SoapAddress, 'element' | 'namespace'> {
  const match = /^\{([^}]*)\}(.+)$/.exec(text);
  return match === null
    ? { element: text, namespace: null }
    : { element: match[2] ?? '', namespace: match[1] === '' ? null : (match[1] ?? null) };
}

/** Whether a call is of this operation: by the element in its body; by its action alone where the body is empty. */
export function isCallOf({ element, namespace, action, name }: SoapAddress, request: RequestView): boolean {
  const envelope = request.envelope();
  if (envelope.kind === 'broken') return false;
  const { content } = envelope;
  if (content === null) return request.soapAction() !== '' && endsWith(request.soapAction(), action ?? name);
  if (content.localName !== element) return false;
  if (namespace !== null && content.namespaceURI !== namespace) return false;
  return action === null || request.soapAction() === action;
}

function endsWith(text: string, end: string): boolean {
  return text === end || text.endsWith(`/${end}`) || text.endsWith(`#${end}`) || text.endsWith(`:${end}`);
}

/** What a call's envelope holds, for people. */
export function describeContent(request: RequestView): string {
  const envelope = request.envelope();
  if (envelope.kind === 'broken') return `no envelope: ${envelope.reason}`;
  const { content } = envelope;
  const action = request.soapAction();
  const said = action === '' ? '' : `, action ${action}`;
  if (content === null) return `an empty body${said}`;
  return `${content.namespaceURI === null ? '' : `{${content.namespaceURI}}`}${content.localName}${said}`;
}
