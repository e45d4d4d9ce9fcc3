/** What a proxy is asked for. */
export interface ProxyTarget {
  /** Lower case; an IPv6 address without brackets. */
  readonly host: string;
  readonly port: number;
}

export interface AbsoluteTarget extends ProxyTarget {
  /** `http://tide.harbour.test:4690` */
  readonly origin: string;
  /** Path and query, as they were sent. */
  readonly rest: string;
}

const DEFAULT_PORTS: Readonly<Record<string, number>> = { http: 80, https: 443 };

/** `http://host:80/path?query`, as a proxy is asked for plain HTTP (RFC 9112, 3.2.2); null: not so. */
export function parseAbsoluteTarget(target: string): AbsoluteTarget | null {
  const match = /^(https?):\/\/(?:[^/?#@]*@)?([^/?#@]+)([^#]*)/i.exec(target);
  if (match === null) return null;
  const [, scheme = '', authority = '', rest = ''] = match;
  const found = parseAuthority(authority, DEFAULT_PORTS[scheme.toLowerCase()] ?? null);
  if (found === null) return null;
  const origin = `${scheme.toLowerCase()}://${renderHost(found)}`;
  return { ...found, origin, rest: rest.startsWith('/') ? rest : `/${rest}` };
}

/** `host:443`, as CONNECT names it (RFC 9112, 3.2.3); null: not so. */
export function parseAuthority(authority: string, defaultPort: number | null): ProxyTarget | null {
  const match = /^(?:\[([0-9a-f:.]+)\]|([^\s:@[\]]+))(?::(\d{1,5}))?$/i.exec(authority);
  if (match === null) return null;
  const port = match[3] === undefined ? defaultPort : Number(match[3]);
  if (port === null || port < 1 || port > 65_535) return null;
  return { host: (match[1] ?? match[2] ?? '').toLowerCase(), port };
}

/** `tide.harbour.test:443`, `[::1]:443` */
export function renderHost({ host, port }: ProxyTarget): string {
  return host.includes(':') ? `[${host}]:${port}` : `${host}:${port}`;
}
