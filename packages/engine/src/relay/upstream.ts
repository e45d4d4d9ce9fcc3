import { type ClientRequest, Agent as HttpAgent, request as httpRequest, type RequestOptions } from 'node:http';
import { Agent as HttpsAgent, request as httpsRequest } from 'node:https';
import { rootCertificates } from 'node:tls';

export interface UpstreamPoolOptions {
  /** PEM certificates to trust beside the system's, for https services with an authority of their own. */
  readonly authority: string | null;
  /** How long an upstream may stay silent before the call is given up. */
  readonly timeoutMs: number;
}

export interface UpstreamOptions extends UpstreamPoolOptions {
  /** `http://127.0.0.1:4691`, or with a base path that is put before every path. */
  readonly url: string;
}

/** The real service behind a relay. */
export interface Upstream {
  readonly url: string;
  readonly host: string;
  readonly timeoutMs: number;
  readonly send: (method: string, target: string, headers: readonly string[]) => ClientRequest;
  readonly close: () => void;
}

/** Kept connections to any number of services. */
export interface UpstreamPool {
  readonly to: (url: string) => Upstream;
  readonly close: () => void;
}

// For each service, not for all.
const MOST_SOCKETS = 256;

export function createUpstreamPool({ authority, timeoutMs }: UpstreamPoolOptions): UpstreamPool {
  const keep = { keepAlive: true, maxSockets: MOST_SOCKETS, noDelay: true };
  const plain = new HttpAgent(keep);
  // `ca` takes the place of the system's certificates: they are named again.
  const secure = new HttpsAgent({ ...keep, ...(authority === null ? {} : { ca: [...rootCertificates, authority] }) });
  const close = (): void => {
    plain.destroy();
    secure.destroy();
  };
  return {
    close,
    to: (url) => {
      const base = new URL(url);
      const isTls = base.protocol === 'https:';
      const basePath = base.pathname.replace(/\/$/, '');
      return {
        url: base.origin + basePath,
        host: base.host,
        timeoutMs,
        close,
        send: (method, target, headers) => {
          const options: RequestOptions = {
            agent: isTls ? secure : plain,
            host: base.hostname.replace(/^\[|\]$/g, ''),
            port: base.port === '' ? (isTls ? 443 : 80) : Number(base.port),
            method,
            path: basePath + target,
            headers: headers as string[],
            timeout: timeoutMs,
          };
          return isTls ? httpsRequest(options) : httpRequest(options);
        },
      };
    },
  };
}

/** One real service, with kept connections of its own. */
export function createUpstream({ url, ...options }: UpstreamOptions): Upstream {
  return createUpstreamPool(options).to(url);
}
