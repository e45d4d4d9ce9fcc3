import type { AddressInfo } from 'node:net';
import type { Exchange } from '@upsetter/core';
import { createUpstream, openRelay, toExchange } from '@upsetter/engine';
import type { FastifyInstance } from 'fastify';

const KEPT_BYTES = 1_000_000;

/** Plays a session against a real service through the relay and gives what was heard, in order. The service is stopped afterwards. */
export async function recordSession(
  app: FastifyInstance,
  play: (address: string) => Promise<void>,
): Promise<Exchange[]> {
  await app.listen({ host: '127.0.0.1', port: 0 });
  const url = `http://127.0.0.1:${(app.server.address() as AddressInfo).port}`;
  const heard: Exchange[] = [];
  let order = 0;
  const relay = await openRelay('127.0.0.1', 0, {
    upstream: createUpstream({ url, authority: null, timeoutMs: 10_000 }),
    keptBodyBytes: KEPT_BYTES,
    nextOrder: () => order++,
    rewrites: false,
    onHeard: (call) => heard.push(toExchange(call)),
  });
  try {
    await play(relay.address);
  } finally {
    await relay.stop(1000);
    await app.close();
  }
  return heard;
}
