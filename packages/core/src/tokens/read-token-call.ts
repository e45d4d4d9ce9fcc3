import type { RequestView } from '../request/request-view.js';

/** Why no token is given, in the words of RFC 6749, 5.2. */
export interface TokenRefusal {
  readonly kind: 'refused';
  readonly status: 400 | 401;
  readonly error: string;
  readonly description: string;
}

export type TokenCall<Client> =
  | { readonly kind: 'known'; readonly id: string; readonly client: Client; readonly scope: readonly string[] }
  | TokenRefusal;

interface KnownClient {
  readonly secret: string;
  readonly scope: readonly string[];
}

/** Who asks for a token, by client credentials (RFC 6749, 4.4.2), in the header or in the body (2.3.1). */
export function readTokenCall<Client extends KnownClient>(
  request: RequestView,
  clients: ReadonlyMap<string, Client>,
): TokenCall<Client> {
  const form = request.form();
  const grant = textOf(form['grant_type']);
  if (grant === null) return refuse(400, 'invalid_request', 'the form has no grant_type');
  if (grant !== 'client_credentials')
    return refuse(400, 'unsupported_grant_type', `client_credentials is served here, not ${grant}`);
  const sent = readBasic(request) ?? [textOf(form['client_id']), textOf(form['client_secret'])];
  const [id, secret] = sent;
  if (id === null) return refuse(401, 'invalid_client', 'no client is named: by basic credentials, or by client_id');
  const client = clients.get(id);
  if (client === undefined || client.secret !== secret)
    return refuse(401, 'invalid_client', 'the client is not known, or its secret is another');
  const wanted = (textOf(form['scope']) ?? '').split(' ').filter((scope) => scope !== '');
  const beyond = wanted.find((scope) => !client.scope.includes(scope));
  if (beyond !== undefined) return refuse(400, 'invalid_scope', `the client may not ask for ${beyond}`);
  return { kind: 'known', id, client, scope: wanted.length === 0 ? client.scope : wanted };
}

/** Both halves are encoded as in a form before they are joined (RFC 6749, 2.3.1). */
function readBasic(request: RequestView): readonly [string | null, string | null] | null {
  const [, sent] = /^basic (\S+)$/i.exec(request.header('authorization') ?? '') ?? [];
  if (sent === undefined) return null;
  try {
    const text = new TextDecoder().decode(Uint8Array.from(atob(sent), (c) => c.charCodeAt(0)));
    const at = text.indexOf(':');
    return at < 0 ? null : [decodePart(text.slice(0, at)), decodePart(text.slice(at + 1))];
  } catch {
    return null;
  }
}

function decodePart(text: string): string {
  try {
    return decodeURIComponent(text.replaceAll('+', ' '));
  } catch {
    return text;
  }
}

function textOf(value: string | readonly string[] | undefined): string | null {
  return typeof value === 'string' && value !== '' ? value : null;
}

function refuse(status: 400 | 401, error: string, description: string): TokenRefusal {
  return { kind: 'refused', status, error, description };
}
