import { type ClientRequest, Agent as HttpAgent, request as httpRequest, type RequestOptions } from 'node:http';
import { Agent as HttpsAgent, request as httpsRequest } from 'node:https';

export interface UpstreamOptions {
  /** `http://127.0.0.1:4691`, or with a base path that is put before every path. */
  readonly url: string;
  /** PEM certificates to trust beside the system's, for an https upstream with an authority of its own. */
  readonly authority: string | null;
  /** How long the upstream may stay silent before the call is given up. */
  readonly timeoutMs: number;
}

/** The real service behind a relay: one pool of kept connections. */
export interface Upstream {
  readonly url: string;
  readonly host: string;
  readonly timeoutMs: number;
  readonly send: (method: string, target: string, headers: readonly string[]) => ClientRequest;
  readonly close: () => void;
}

const MOST_SOCKETS = 256;

export function createUpstream({ url, authority, timeoutMs }: UpstreamOptions): Upstream {
  const base = new URL(url);
  const isTls = base.protocol === 'https:';
  const keep = { keepAlive: true, maxSockets: MOST_SOCKETS, noDelay: true };
  const agent = isTls
    ? new HttpsAgent({ ...keep, ...(authority === null ? {} : { ca: authority }) })
    : new HttpAgent(keep);
  const basePath = base.pathname.replace(/\/$/, '');
  return {
    url: base.origin + basePath,
    host: base.host,
    timeoutMs,
    send: (method, target, headers) => {
      const options: RequestOptions = {
        agent,
        host: base.hostname.replace(/^\[|\]$/g, ''),
        port: base.port === '' ? (isTls ? 443 : 80) : Number(base.port),
        method,
        path: basePath + target,
        headers: headers as string[],
        timeout: timeoutMs,
      };
      return isTls ? httpsRequest(options) : httpRequest(options);
    },
    close: () => agent.destroy(),
  };
}
