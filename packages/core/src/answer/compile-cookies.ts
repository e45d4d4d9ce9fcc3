import type { Answer } from '../definition/answer.js';
import type { CookieDefinition } from '../definition/answer-forms.js';
import { parseDuration } from '../definition/duration.js';
import type { PathKey } from '../definition/yaml-source.js';

const MS_PER_SECOND = 1000;

/** `cookies` of an answer as the texts of its `Set-Cookie` headers (RFC 6265, 4.1), each with its place in the file. */
export function writeCookies(
  cookies: Answer['cookies'],
  path: readonly PathKey[],
): { readonly text: string; readonly at: readonly PathKey[] }[] {
  return Object.entries(cookies ?? {}).map(([name, given]) => {
    const cookie = typeof given === 'object' ? given : { value: given };
    return { text: `${name}=${cookie.value}${writeAttributes(cookie)}`, at: [...path, name] };
  });
}

function writeAttributes(cookie: CookieDefinition): string {
  const { path, domain, maxAge, expires, sameSite, secure, httpOnly } = cookie;
  const parts = [
    path === undefined ? '' : `Path=${path}`,
    domain === undefined ? '' : `Domain=${domain}`,
    maxAge === undefined ? '' : `Max-Age=${Math.round((parseDuration(maxAge) ?? 0) / MS_PER_SECOND)}`,
    expires === undefined ? '' : `Expires=${expires}`,
    sameSite === undefined ? '' : `SameSite=${sameSite[0]?.toUpperCase()}${sameSite.slice(1)}`,
    secure === true ? 'Secure' : '',
    httpOnly === true ? 'HttpOnly' : '',
  ];
  return parts
    .filter((part) => part !== '')
    .map((part) => `; ${part}`)
    .join('');
}
