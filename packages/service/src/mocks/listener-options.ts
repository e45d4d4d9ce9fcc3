import { createPrivateKey, X509Certificate } from 'node:crypto';
import type { CompiledService } from '@upsetter/core';
import type { KeyedCertificate, ListenerOptions, ListenerTls } from '@upsetter/engine';
import type { AuthorityKeeper } from '../authority/authority-keeper.js';
import { FileMistake } from './file-mistake.js';

const TLS = ['listen', 'tls'];

type Listen = CompiledService['definition']['listen'];

/** What is spoken at the listener of a service. Fails with `file-refused` where a certificate or key of the file is none, `authority-unusable`. */
export async function readListenerOptions(listen: Listen, keeper: AuthorityKeeper): Promise<ListenerOptions> {
  return { tls: await readTls(listen?.tls, keeper), http2: listen?.http2 === true };
}

async function readTls(tls: NonNullable<Listen>['tls'], keeper: AuthorityKeeper): Promise<ListenerTls | null> {
  if (tls === undefined) return null;
  const { certificate, key, clients } = tls === 'auto' ? {} : tls;
  const own = certificate === undefined || key === undefined ? null : readPair(certificate, key);
  const authority =
    own === null || (clients !== undefined && clients.authority === undefined) ? await keeper.open() : null;
  if (clients?.authority !== undefined) readCertificate(clients.authority, ['clients', 'authority']);
  return {
    certificateFor: async (host) => own ?? ((await authority?.leafFor(host)) as KeyedCertificate),
    clients:
      clients === undefined
        ? null
        : {
            authorityPem: clients.authority ?? authority?.certificatePem ?? '',
            isRequired: clients.required === true,
          },
  };
}

function readPair(certificatePem: string, keyPem: string): KeyedCertificate {
  const certificate = readCertificate(certificatePem, ['certificate']);
  try {
    const key = createPrivateKey(keyPem);
    if (certificate.checkPrivateKey(key)) return { certificatePem, keyPem };
  } catch (error) {
    throw new FileMistake([...TLS, 'key'], `a private key in PEM is expected (${(error as Error).message})`);
  }
  throw new FileMistake([...TLS, 'key'], 'it is not the key of the certificate');
}

function readCertificate(pem: string, path: readonly string[]): X509Certificate {
  try {
    return new X509Certificate(pem);
  } catch (error) {
    throw new FileMistake([...TLS, ...path], `a certificate in PEM is expected (${(error as Error).message})`);
  }
}
