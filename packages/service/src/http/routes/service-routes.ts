import {
  revisionSchema,
  serviceSummarySchema,
  serviceViewSchema,
  tryRequestSchema,
  tryResultSchema,
} from '@upsetter/core/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { viewMock, viewMockDetail } from '../../mocks/mock-view.js';
import { tryCall } from '../../mocks/try-call.js';
import type { ApiContext } from '../context.js';
import { setRevision } from '../revision-header.js';

const tags = ['services'];
const byName = z.object({ name: z.string() });

/** Services, read: list, one with file and ladders, its revisions; and Try. */
export function serviceRoutes(context: ApiContext): FastifyPluginAsyncZod {
  const { mocks, log, store, reports } = context;
  return async (app) => {
    app.get('/services', { schema: { tags, response: { 200: z.array(serviceSummarySchema) } } }, async () => {
      const nowMs = Date.now();
      return mocks.list().map((mock) => viewMock(mock, log.lastMinute.of(mock.name, nowMs), reports.findings(mock)));
    });

    app.get(
      '/services/:name',
      { schema: { tags, params: byName, response: { 200: serviceViewSchema } } },
      async (request, reply) => {
        const mock = mocks.get(request.params.name);
        setRevision(reply, mock);
        return viewMockDetail(mock, log.lastMinute.of(mock.name, Date.now()), reports.findings(mock));
      },
    );

    app.get(
      '/services/:name/revisions',
      { schema: { tags, params: byName, response: { 200: z.array(revisionSchema) } } },
      async (request) => {
        const mock = mocks.get(request.params.name);
        const history = await store.services.history(mock.name);
        return history.map(({ revision, savedAtMs, note }) => ({
          revision,
          savedAt: new Date(savedAtMs).toISOString(),
          note,
        }));
      },
    );

    const trying = { schema: { tags, params: byName, body: tryRequestSchema, response: { 200: tryResultSchema } } };
    app.post('/services/:name/try', trying, async (request) =>
      tryCall(mocks.get(request.params.name), request.body, context),
    );
  };
}
