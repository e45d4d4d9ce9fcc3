export interface ProxyProblem {
  readonly status: number;
  readonly title: string;
  readonly detail: string | null;
}

/** A refusal of the proxy itself as Problem Details (RFC 9457). */
export function renderProblem({ status, title, detail }: ProxyProblem): {
  head: Readonly<Record<string, string>>;
  body: string;
} {
  const body = JSON.stringify({ type: 'about:blank', title, status, ...(detail === null ? {} : { detail }) });
  const head = { 'content-type': 'application/problem+json', 'content-length': String(Buffer.byteLength(body)) };
  return { head, body };
}
