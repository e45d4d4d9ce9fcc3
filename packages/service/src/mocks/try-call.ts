import { randomUUID } from 'node:crypto';
import { type IncomingMessage, request as sendHttp } from 'node:http';
import { request as sendHttps } from 'node:https';
import { AppError } from '@upsetter/core';
import type { TryResult } from '@upsetter/core/wire';
import type { KeyedCertificate } from '@upsetter/engine';
import type { Store } from '@upsetter/store';
import type { AuthorityKeeper } from '../authority/authority-keeper.js';
import { viewCall } from '../calls/call-view.js';
import { explainRecord } from '../calls/explain-record.js';
import type { ServiceCallLog } from '../calls/service-call-log.js';
import type { Mock } from './mock.js';

/** The header by which a call of ours is found again in the log. */
const TRY_HEADER = 'upsetter-try';
const LONGEST_MS = 60_000;
const STREAM_MS = 2_000;

export interface TriedCall {
  readonly method: string;
  readonly path: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string | null;
  readonly lane: string;
  /** The name in the client certificate that is shown; null: none, unless one is required. */
  readonly certificate: string | null;
}

/** Where the call is found again, and who signs the certificate it shows. */
export interface TryContext {
  readonly log: ServiceCallLog;
  readonly store: Store;
  readonly authority: AuthorityKeeper;
}

/** What certificates that nobody named are issued to. */
const NOBODY_NAMED = 'upsetter try';

/** Sends one call to a mock over its own port, as any caller would, and says what answered it and why. */
export async function tryCall(mock: Mock, tried: TriedCall, { log, store, authority }: TryContext): Promise<TryResult> {
  if (mock.listener === null) throw new AppError('port-in-use', mock.trouble ?? `${mock.name} does not listen`);
  const token = randomUUID();
  const startedMs = performance.now();
  const headers = {
    ...tried.headers,
    [TRY_HEADER]: token,
    ...(tried.lane === 'main' ? {} : { 'upsetter-lane': tried.lane }),
  };
  const shown = await certificateFor(mock, tried.certificate, authority);
  const answer = await send(mock.listener.address, { ...tried, headers }, shown);
  const tookMs = Math.round((performance.now() - startedMs) * 100) / 100;
  const record = log.findSent(TRY_HEADER, token);
  const why = record === undefined ? null : await explainRecord(record, store);
  return { ...answer, tookMs, call: record === undefined ? null : viewCall(record), why };
}

/** Null: none is shown. */
async function certificateFor(
  mock: Mock,
  named: string | null,
  keeper: AuthorityKeeper,
): Promise<KeyedCertificate | null> {
  const tls = mock.live.compiled.definition.listen?.tls;
  const clients = tls === undefined || tls === 'auto' ? undefined : tls.clients;
  if (clients === undefined) {
    if (named === null) return null;
    throw new AppError(
      'request-refused',
      `${mock.name} does not ask callers for a certificate: give it \`listen: { tls: { clients: {} } }\``,
    );
  }
  const name = named ?? (clients.required === true ? NOBODY_NAMED : null);
  if (name !== null && clients.authority !== undefined)
    throw new AppError(
      'request-refused',
      `${mock.name} trusts the authority in its file, which alone can sign a certificate: call it with one, as by curl --cert FILE --key FILE`,
    );
  return name === null ? null : (await keeper.open()).issueClient(name);
}

function send(
  address: string,
  tried: TriedCall,
  shown: KeyedCertificate | null,
): Promise<Pick<TryResult, 'status' | 'headers' | 'body'>> {
  return new Promise((resolve, reject) => {
    const refuse = (error: Error): void =>
      reject(new AppError('request-refused', `the call could not be sent: ${error.message}`, {}, error));
    try {
      const length = tried.body === null ? {} : { 'content-length': Buffer.byteLength(tried.body) };
      const sendRequest = address.startsWith('https:') ? sendHttps : sendHttp;
      const outgoing = sendRequest(
        `${address}${tried.path}`,
        {
          method: tried.method,
          headers: { ...tried.headers, ...length },
          agent: false,
          timeout: LONGEST_MS,
          // It is our own listener: whatever certificate the file gives it.
          rejectUnauthorized: false,
          ...(shown === null ? {} : { cert: shown.certificatePem, key: shown.keyPem }),
        },
        (incoming) => {
          readAll(incoming).then(
            (body) => resolve({ status: incoming.statusCode ?? 0, headers: incoming.rawHeaders, body }),
            refuse,
          );
        },
      );
      outgoing.on('timeout', () => outgoing.destroy(new Error(`no answer within ${LONGEST_MS / 1000} s`)));
      outgoing.on('error', refuse);
      outgoing.end(tried.body ?? undefined);
    } catch (error) {
      refuse(error as Error);
    }
  });
}

async function readAll(incoming: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  // A stream of events may never end: what came in this time is shown.
  const isStream = /^text\/event-stream\b/i.test(incoming.headers['content-type'] ?? '');
  const timer = isStream ? setTimeout(() => incoming.destroy(), STREAM_MS) : undefined;
  try {
    for await (const chunk of incoming) chunks.push(chunk as Buffer);
  } catch (error) {
    if (!isStream) throw error;
  } finally {
    clearTimeout(timer);
  }
  return Buffer.concat(chunks).toString('utf8');
}
