import { type KeyedCertificate, makeClientLeaf, makeLeaf } from './make-authority.js';

/** Upsetter's own certificate authority, at work. */
export interface Authority {
  readonly certificatePem: string;
  /** A certificate for a host name or IP address, with the authority's own after it; made once for each. */
  readonly leafFor: (host: string) => Promise<KeyedCertificate>;
  /** A certificate by which a client shows who it is; another one each time. */
  readonly issueClient: (name: string) => Promise<KeyedCertificate>;
}

// A proxy sees as many hosts as its callers name; what was made first is made again when it is asked for again.
const MOST_LEAVES = 1_000;

export function createAuthority(root: KeyedCertificate): Authority {
  const leaves = new Map<string, Promise<KeyedCertificate>>();
  const make = async (host: string): Promise<KeyedCertificate> => {
    const leaf = await makeLeaf(root, host, Date.now());
    return { ...leaf, certificatePem: `${leaf.certificatePem}\n${root.certificatePem}` };
  };
  return {
    certificatePem: root.certificatePem,
    issueClient: (name) => makeClientLeaf(root, name, Date.now()),
    leafFor: (host) => {
      const known = leaves.get(host);
      if (known !== undefined) return known;
      if (leaves.size >= MOST_LEAVES) leaves.delete(leaves.keys().next().value as string);
      const made = make(host);
      leaves.set(host, made);
      return made;
    },
  };
}
