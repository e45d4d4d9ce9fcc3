import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { ApiContext } from '../context.js';

const healthSchema = z.object({
  version: z.string(),
  store: z.enum(['postgres', 'memory']),
  storeAway: z.boolean(),
  callsWaiting: z.int(),
  callsGivenUp: z.int(),
  services: z.int(),
});

/** `/health`: alive as long as it answers; `/health/ready`: 503 while the store is away. */
export function healthRoutes(context: ApiContext): FastifyPluginAsyncZod {
  const read = () => {
    const { storeAway, waiting, givenUp } = context.writerState();
    return {
      version: context.version,
      store: context.store.kind,
      storeAway,
      callsWaiting: waiting,
      callsGivenUp: givenUp,
      services: context.mocks.list().length,
    };
  };
  return async (app) => {
    app.get('/health', { schema: { tags: ['health'], response: { 200: healthSchema } } }, async () => read());
    app.get(
      '/health/ready',
      { schema: { tags: ['health'], response: { 200: healthSchema, 503: healthSchema } } },
      async (_request, reply) => {
        const health = read();
        return reply.code(health.storeAway ? 503 : 200).send(health);
      },
    );
  };
}
