import { type IncomingMessage, request as sendHttp } from 'node:http';
import { request as sendHttps } from 'node:https';
import { buffer } from 'node:stream/consumers';
import type { TrialAnswer, TrialRequest } from '@upsetter/core';

const HAS_BODY = ['POST', 'PUT', 'PATCH'];
const LONGEST_MS = 30_000;

/** Sends one request, as it stands, to any port (`fetch` keeps some for itself); redirects are answers. Rejects when no answer comes. */
export function sendRequest(
  base: URL,
  { method, target, headers, body }: TrialRequest,
  signal?: AbortSignal,
): Promise<TrialAnswer> {
  const url = `${base.origin}${base.pathname.replace(/\/$/, '')}${target}`;
  const send = base.protocol === 'https:' ? sendHttps : sendHttp;
  return new Promise((resolve, reject) => {
    const refuse = (error: NodeJS.ErrnoException): void =>
      reject(new Error(`no answer from ${url}: ${error.code ?? error.message}`));
    // Without one, Node would send an empty body in chunks.
    const length =
      body === null && !HAS_BODY.includes(method) ? [] : ['content-length', String(Buffer.byteLength(body ?? ''))];
    const options = { method, headers: ['host', base.host, ...headers, ...length], timeout: LONGEST_MS };
    const outgoing = send(url, signal === undefined ? options : { ...options, signal });
    outgoing.on('response', (incoming) => readAnswer(incoming).then(resolve, refuse));
    outgoing.on('timeout', () => outgoing.destroy(new Error(`nothing within ${LONGEST_MS / 1000} s`)));
    outgoing.on('error', refuse);
    outgoing.end(body ?? undefined);
  });
}

async function readAnswer(incoming: IncomingMessage): Promise<TrialAnswer> {
  const body = await buffer(incoming);
  return {
    status: incoming.statusCode ?? 0,
    headers: incoming.rawHeaders,
    body: body.byteLength === 0 ? null : body.toString('utf8'),
  };
}
