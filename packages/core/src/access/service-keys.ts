/** A public key as a file has it: PEM text, or a JSON Web Key (RFC 7517). */
export type PublicKey = string | Readonly<Record<string, unknown>>;

/** Signatures by pairs of keys, which the core cannot compute itself: what runs it gives them. */
export interface ServiceKeys {
  /** Whether a signature (base64url) of a text is by the private key of this public one. Never fails: an unusable key is `unusable`. */
  readonly verify: (
    algorithm: string,
    key: PublicKey,
    text: string,
    signature: string,
  ) => 'right' | 'wrong' | 'unusable';
  /** A JSON Web Token (RFC 7519) of claims, signed by a key of the service's own. */
  readonly sign: (claims: Readonly<Record<string, unknown>>, algorithm: string) => string;
  /** The public halves of the service's own keys (RFC 7517, 5). */
  readonly publicKeys: (algorithm: string) => readonly Readonly<Record<string, unknown>>[];
}

/** Algorithms by pairs of keys (RFC 7518, 3.1; RFC 8037). */
export const PAIR_ALGORITHMS: readonly string[] = [
  ...['RS256', 'RS384', 'RS512', 'PS256', 'PS384', 'PS512'],
  ...['ES256', 'ES384', 'ES512', 'EdDSA'],
];
