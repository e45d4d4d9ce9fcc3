import { clockChangeSchema, laneViewSchema } from '@upsetter/core/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { ApiContext } from '../context.js';

const tags = ['lanes'];
const byName = z.object({ lane: z.string() });
const answered = { 200: laneViewSchema };

/** Lanes: callers' private worlds, over all services. */
export function laneRoutes({ lanes }: ApiContext): FastifyPluginAsyncZod {
  return async (app) => {
    app.get('/lanes', { schema: { tags, response: { 200: z.array(laneViewSchema) } } }, async () => lanes.list());

    app.get('/lanes/:lane', { schema: { tags, params: byName, response: answered } }, async (request) =>
      lanes.get(request.params.lane),
    );

    app.post(
      '/lanes/:lane/reset',
      { schema: { tags, params: byName, response: { 204: z.null() } } },
      async (request, reply) => {
        await lanes.reset(request.params.lane);
        return reply.code(204).send(null);
      },
    );

    app.delete(
      '/lanes/:lane',
      { schema: { tags, params: byName, response: { 204: z.null() } } },
      async (request, reply) => {
        await lanes.drop(request.params.lane);
        return reply.code(204).send(null);
      },
    );

    const clocked = {
      schema: { tags, params: byName, body: clockChangeSchema, response: { 200: laneViewSchema.shape.clock } },
    };
    app.put('/lanes/:lane/clock', clocked, async (request) => lanes.setClock(request.params.lane, request.body));
  };
}
