import Negotiator from 'negotiator';

/** A content coding that bodies can be packed with. */
export type ContentCoding = 'gzip' | 'br' | 'deflate';

const CODINGS = ['gzip', 'br', 'deflate'];

/** What the caller takes and likes best (RFC 9110, 12.5.3); null: the body as it is. */
export function chooseCoding(acceptEncoding: string | undefined): ContentCoding | null {
  if (acceptEncoding === undefined) return null;
  const negotiator = new Negotiator({ headers: { 'accept-encoding': acceptEncoding } });
  const chosen = negotiator.encodings([...CODINGS, 'identity'])[0];
  return chosen !== undefined && CODINGS.includes(chosen) ? (chosen as ContentCoding) : null;
}
