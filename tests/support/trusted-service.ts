import type { RequestListener } from 'node:http';
import { createServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import { type KeyedCertificate, makeAuthority, makeLeaf } from '@upsetter/engine';

export interface TrustedService {
  /** `https://localhost:PORT` */
  readonly url: string;
  /** The certificate that callers have to trust: an authority of the service's own. */
  readonly authority: KeyedCertificate;
  readonly stop: () => Promise<void>;
}

/** A real https server in the place of a real service. */
export async function startTrustedService(answer: RequestListener): Promise<TrustedService> {
  const authority = await makeAuthority('Harbour authority', Date.now());
  const leaf = await makeLeaf(authority, 'localhost', Date.now());
  const server = createServer({ cert: leaf.certificatePem, key: leaf.keyPem }, answer);
  await new Promise<void>((resolve) => server.listen(0, 'localhost', resolve));
  return {
    url: `https://localhost:${(server.address() as AddressInfo).port}`,
    authority,
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}
