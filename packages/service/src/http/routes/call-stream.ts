import type { FastifyInstance } from 'fastify';
import { viewCall } from '../../calls/call-view.js';
import type { ApiContext } from '../context.js';

/** Changes are gathered for this long, so that a busy mock costs its watchers a few messages a second, not thousands. */
const GATHER_MS = 100;
const MOST_IN_MESSAGE = 500;
const IDLE_MS = 15_000;

/**
 * `GET /api/calls/stream`: Server-Sent Events named `calls`, each with `{ calls, missed }`: calls that were received or
 * completed, and how many changes did not fit or were forgotten. The id is a position: a client that comes back with
 * `Last-Event-ID` goes on there without a gap, as far as memory reaches.
 */
export function callStream(app: FastifyInstance, { log, startedAtMs }: ApiContext): void {
  app.get(
    '/calls/stream',
    { sse: { kind: 'only', heartbeat: true }, schema: { hide: true } },
    async (_request, reply) => {
      const closed = new AbortController();
      reply.sse.onClose(() => closed.abort());
      reply.sse.keepAlive();
      let position = readPosition(reply.sse.lastEventId, startedAtMs) ?? log.changes.position;
      await reply.sse.send({ id: `${startedAtMs}-${position}`, event: 'open', data: { position } });
      while (!closed.signal.aborted && reply.sse.isConnected) {
        if (log.changes.position === position) await log.changes.next(IDLE_MS, closed.signal);
        if (closed.signal.aborted || log.changes.position === position) continue;
        const { records, position: next, missed } = log.changes.after(position);
        const shown = records.slice(-MOST_IN_MESSAGE);
        await reply.sse.send({
          id: `${startedAtMs}-${next}`,
          event: 'calls',
          data: { calls: shown.map(viewCall), missed: missed + records.length - shown.length },
        });
        position = next;
        await new Promise((resolve) => setTimeout(resolve, GATHER_MS));
      }
    },
  );
}

/** The position in an id of ours; null when it is of another life of the process. */
function readPosition(lastEventId: string | null, startedAtMs: number): number | null {
  const match = /^(\d+)-(\d+)$/.exec(lastEventId ?? '');
  return match !== null && Number(match[1]) === startedAtMs ? Number(match[2]) : null;
}
