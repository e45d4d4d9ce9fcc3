import { describeServiceFile } from '@upsetter/core';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';

/** The JSON Schema of the service file: what editors complete and explain keys by. */
export const schemaRoutes: FastifyPluginAsyncZod = async (app) => {
  const text = JSON.stringify(describeServiceFile());
  app.get('/service-file.schema.json', { schema: { tags: ['services'] } }, async (_request, reply) =>
    reply.type('application/schema+json').header('cache-control', 'no-cache').send(text),
  );
};
