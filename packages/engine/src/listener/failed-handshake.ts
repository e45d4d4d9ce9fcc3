/** A connection that came to nothing: no call was made, so none is in the log. */
export interface FailedHandshake {
  readonly atMs: number;
  /** The address that the connection came from; null: it is not known. */
  readonly from: string | null;
  /** What went wrong, and what to do. */
  readonly reason: string;
}

const NO_CERTIFICATE =
  'the caller showed no certificate, and this service requires one (`listen.tls.clients`): upsetter authority issue NAME';

/** What OpenSSL says, as people need to read it. */
const REASONS: Readonly<Record<string, string>> = {
  ERR_SSL_HTTP_REQUEST: 'the caller spoke HTTP in clear: the address of this service begins with https://',
  ERR_SSL_WRONG_VERSION_NUMBER: 'the caller did not speak TLS: the address of this service begins with https://',
  ERR_SSL_PEER_DID_NOT_RETURN_A_CERTIFICATE: NO_CERTIFICATE,
  ERR_SSL_TLSV1_ALERT_UNKNOWN_CA:
    "the caller does not trust the service's certificate: give it the authority's (upsetter authority export)",
  ERR_SSL_SSLV3_ALERT_BAD_CERTIFICATE: "the caller refused the service's certificate",
  ERR_SSL_SSLV3_ALERT_CERTIFICATE_UNKNOWN:
    "the caller does not trust the service's certificate: give it the authority's (upsetter authority export)",
  ERR_SSL_UNSUPPORTED_PROTOCOL: 'the caller speaks only a version of TLS that is no longer safe',
  ERR_SSL_NO_SHARED_CIPHER: 'the caller and the service have no cipher in common',
  ECONNRESET:
    'the caller left before TLS was open; often it does not trust the certificate (upsetter authority export)',
};

/** `unverified`: OpenSSL's code for what is wrong with the caller's certificate. */
export function describeHandshake(
  { code = '', message }: NodeJS.ErrnoException,
  unverified: string | undefined,
): string {
  if (unverified === 'CERT_HAS_EXPIRED') return 'the certificate that the caller showed has run out';
  if (unverified !== undefined)
    return `the certificate that the caller showed is not signed by an authority that \`listen.tls.clients\` trusts (${unverified})`;
  return REASONS[code] ?? `TLS could not be opened: ${message}`;
}
