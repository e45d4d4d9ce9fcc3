import type { Heard } from './heard.js';
import { memberExpression } from './leaves.js';

/** A credential as a call carries it. */
export interface Credential {
  /** The expression that reads it: `call.headers.authorization`, `call.cookies.sid`. */
  readonly read: string;
  /** What that gives: `Bearer tok_1`. */
  readonly value: string;
  /** What stands before the token itself: `Bearer `. */
  readonly scheme: string;
  readonly token: string;
  /** The name of the cookie; null for headers. */
  readonly cookie: string | null;
}

const CREDENTIAL = /^(authorization|(?!.*idempot)(x-)?.*(key|token|session|auth).*)$/;

/** The credentials of a call: headers that say who calls, and cookies. */
export function readCredentials({ exchange: { requestHeaders } }: Heard): Credential[] {
  const found: Credential[] = [];
  for (let i = 0; i < requestHeaders.length; i += 2) {
    const name = requestHeaders[i]?.toLowerCase() ?? '';
    const value = requestHeaders[i + 1] ?? '';
    if (name === 'cookie') found.push(...readCookies(value));
    else if (CREDENTIAL.test(name)) {
      const [, scheme = '', token = value] = /^([A-Za-z]+ +)(\S+)$/.exec(value) ?? [];
      found.push({ read: `call.headers${memberExpression([name])}`, value, scheme, token, cookie: null });
    }
  }
  return found;
}

/** One cookie that an answer sets: name, value, and the attributes as they stand. */
export interface SetCookie {
  readonly name: string;
  readonly value: string;
  readonly rest: string;
}

/** A `Set-Cookie` header (RFC 6265, 4.1.1); null when it is none. */
export function readSetCookie(text: string): SetCookie | null {
  const [, name, value = '', rest = ''] = /^([^=;\s]+)=([^;]*)(.*)$/s.exec(text) ?? [];
  return name === undefined ? null : { name, value, rest };
}

/** The cookies that an answer sets, in order. */
export function setCookiesOf({ exchange: { responseHeaders } }: Heard): SetCookie[] {
  return responseHeaders.flatMap((name, i) => {
    const cookie =
      i % 2 === 0 && name.toLowerCase() === 'set-cookie' ? readSetCookie(responseHeaders[i + 1] ?? '') : null;
    return cookie === null ? [] : [cookie];
  });
}

/** Each cookie of a `Cookie` header (RFC 6265, 5.4). */
function readCookies(header: string): Credential[] {
  return header.split(';').flatMap((pair) => {
    const at = pair.indexOf('=');
    const name = pair.slice(0, Math.max(at, 0)).trim();
    const token = pair.slice(at + 1).trim();
    if (name === '' || token === '') return [];
    return [{ read: `call.cookies${memberExpression([name])}`, value: token, scheme: '', token, cookie: name }];
  });
}
