import type { KeyedCertificate } from '../authority/make-authority.js';

/** What is spoken at a listener: in clear (`tls` null) or over TLS, HTTP/2 beside HTTP/1.1 where it is asked for. */
export interface ListenerOptions {
  readonly tls: ListenerTls | null;
  readonly http2: boolean;
}

export interface ListenerTls {
  /** The certificate of a host name; of `localhost` where a caller names none. */
  readonly certificateFor: (host: string) => Promise<KeyedCertificate>;
  /** Callers are asked for a certificate that this authority (PEM) signed; null: they are not asked. */
  readonly clients: { readonly authorityPem: string; readonly isRequired: boolean } | null;
}

export const IN_CLEAR: ListenerOptions = { tls: null, http2: false };
