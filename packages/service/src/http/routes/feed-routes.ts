import { feedRunSchema, feedSchema, feedStartSchema } from '@upsetter/core/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { ApiContext } from '../context.js';

const tags = ['feeds'];
const byName = z.object({ name: z.string() });

/** Feeds: contracts fetched again and again. `run` is the hook: whoever has a new version asks for it. */
export function feedRoutes({ feeds }: ApiContext): FastifyPluginAsyncZod {
  return async (app) => {
    app.get('/feeds', { schema: { tags, response: { 200: z.array(feedSchema) } } }, async () => [...feeds.list()]);

    app.post(
      '/feeds',
      { schema: { tags, body: feedStartSchema, response: { 201: feedSchema } } },
      async (request, reply) => reply.code(201).send(await feeds.add(request.body)),
    );

    app.get('/feeds/:name', { schema: { tags, params: byName, response: { 200: feedSchema } } }, async (request) =>
      feeds.get(request.params.name),
    );

    app.post(
      '/feeds/:name/run',
      { schema: { tags, params: byName, response: { 200: feedRunSchema } } },
      async (request) => feeds.run(request.params.name),
    );

    const removing = { schema: { tags, params: byName, response: { 204: z.null() } } };
    app.delete('/feeds/:name', removing, async (request, reply) => {
      await feeds.remove(request.params.name);
      return reply.code(204).send(null);
    });
  };
}
