import { Agent, type IncomingMessage, request as sendRequest } from 'node:http';
import { request as sendSecurely } from 'node:https';
import type { Socket } from 'node:net';
import { connect as connectTls, type TLSSocket } from 'node:tls';
import { readAll } from './real-service.js';

export interface ProxiedAnswer {
  readonly status: number;
  readonly text: string;
}

/** What a caller with `http_proxy` set does with a plain address: its absolute form is sent to the proxy. */
export function askPlain(proxy: string, url: string, method = 'GET', body = ''): Promise<ProxiedAnswer> {
  const { hostname, port } = new URL(proxy);
  return new Promise((resolve, reject) => {
    const request = sendRequest(
      { host: hostname, port, method, path: url, headers: { host: new URL(url).host } },
      (answer) => void readAnswer(answer).then(resolve, reject),
    );
    request.on('error', reject);
    request.end(body);
  });
}

/** Has the proxy connect to `host:port`. Gives the connection, or the answer that refused it. */
export function connectThrough(proxy: string, authority: string): Promise<Socket | ProxiedAnswer> {
  const { hostname, port } = new URL(proxy);
  return new Promise((resolve, reject) => {
    const request = sendRequest({ host: hostname, port, method: 'CONNECT', path: authority, agent: new Agent() });
    request.on('connect', (answer, socket, head) => {
      if (answer.statusCode === 200) resolve(socket as Socket);
      else resolve({ status: answer.statusCode ?? 0, text: head.toString() });
    });
    request.on('error', reject);
    request.end();
  });
}

/** TLS to a host through the proxy, trusting one authority. */
export async function openTls(proxy: string, url: string, trusted: string): Promise<TLSSocket> {
  const { hostname, host } = new URL(url);
  const socket = await connectThrough(proxy, host);
  if (!('write' in socket)) throw new Error(`refused: ${socket.status}`);
  return new Promise((resolve, reject) => {
    const secure = connectTls({ socket, servername: hostname, ca: trusted }, () => resolve(secure));
    secure.on('error', reject);
  });
}

/** What a caller with `https_proxy` set does with an https address. */
export async function askSecurely(proxy: string, url: string, trusted: string): Promise<ProxiedAnswer> {
  const secure = await openTls(proxy, url, trusted);
  const { pathname, search, host } = new URL(url);
  return new Promise((resolve, reject) => {
    const options = { createConnection: () => secure, path: pathname + search, headers: { host } };
    const request = sendSecurely(options, (answer) => void readAnswer(answer).then(resolve, reject));
    request.on('error', reject);
    request.end();
  });
}

async function readAnswer(answer: IncomingMessage): Promise<ProxiedAnswer> {
  return { status: answer.statusCode ?? 0, text: (await readAll(answer)).toString() };
}
