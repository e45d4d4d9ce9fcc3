import { certificateFileOf } from '@upsetter/core/light';

/** A call to be written down: headers flat (name, value, name, value). */
export interface WrittenCall {
  readonly url: string;
  readonly method: string;
  readonly headers: readonly string[];
  readonly body: string | null;
  /** Whose client certificate is shown; null or left out: nobody's. */
  readonly certificate?: string | null;
}

/** What a client sends by itself, or made for its connection. */
const BY_ITSELF = new Set(['host', 'connection', 'content-length', 'accept-encoding', 'user-agent', 'upsetter-try']);

/** Headers that a person chose. */
export function ownHeaders({ headers }: Pick<WrittenCall, 'headers'>): (readonly [string, string])[] {
  return headers.flatMap((name, i) =>
    i % 2 === 0 && !BY_ITSELF.has(name.toLowerCase()) ? [[name, headers[i + 1] ?? ''] as const] : [],
  );
}

/** For a POSIX shell: each argument in single quotes. */
export function asCurl(call: WrittenCall): string {
  const quote = (text: string): string => `'${text.replaceAll("'", `'\\''`)}'`;
  const method = call.method === 'GET' && call.body === null ? '' : `-X ${call.method} `;
  const headers = ownHeaders(call).map(([name, value]) => ` \\\n  -H ${quote(`${name}: ${value}`)}`);
  // Not --data, which reads a file where the body begins with @.
  const body = call.body === null ? '' : ` \\\n  --data-raw ${quote(call.body)}`;
  return `curl ${method}${quote(call.url)}${secure(call)}${headers.join('')}${body}`;
}

/** The files are named as `upsetter authority export` and `issue` name them. */
function secure({ url, certificate = null }: WrittenCall): string {
  if (!url.startsWith('https:')) return '';
  const file = certificate === null ? null : certificateFileOf(certificate);
  return ` \\\n  --cacert upsetter-authority.pem${file === null ? '' : ` \\\n  --cert ${file}.pem --key ${file}.key`}`;
}

export function asFetch(call: WrittenCall): string {
  const headers = ownHeaders(call);
  const options = {
    ...(call.method === 'GET' ? {} : { method: call.method }),
    ...(headers.length === 0 ? {} : { headers: Object.fromEntries(headers) }),
    ...(call.body === null ? {} : { body: call.body }),
  };
  const text = Object.keys(options).length === 0 ? '' : `, ${JSON.stringify(options, null, 2)}`;
  return `await fetch(${JSON.stringify(call.url)}${text});`;
}
