import { AppError, writeHar } from '@upsetter/core';
import {
  draftRequestSchema,
  draftViewSchema,
  exchangeDetailSchema,
  exchangeListSchema,
  takeStartSchema,
  takeSummarySchema,
} from '@upsetter/core/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { draftInWorker } from '../../takes/draft-in-worker.js';
import type { Hearing } from '../../takes/open-take-listener.js';
import { viewExchange, viewExchangeDetail, viewTake } from '../../takes/take-view.js';
import type { ApiContext } from '../context.js';

const tags = ['takes'];
const byName = z.object({ name: z.string() });
const page = z.object({
  after: z.coerce.number().int().min(-1).default(-1),
  limit: z.coerce.number().int().min(1).max(1000).default(200),
});

/** Takes: hear a session through a relay, look at what was heard, draft from it. */
export function takeRoutes({ takes, version }: ApiContext): FastifyPluginAsyncZod {
  return async (app) => {
    app.get('/takes', { schema: { tags, response: { 200: z.array(takeSummarySchema) } } }, async () =>
      (await takes.list()).map(viewTake),
    );

    app.post(
      '/takes',
      { schema: { tags, body: takeStartSchema, response: { 201: takeSummarySchema } } },
      async (request, reply) => {
        const { name, port, masks, ...how } = request.body;
        const take = await takes.start({ name, port, masks, hearing: readHearing(how) });
        return reply.code(201).send(viewTake(take));
      },
    );

    const one = { schema: { tags, params: byName, response: { 200: takeSummarySchema } } };
    app.get('/takes/:name', one, async (request) => viewTake(await takes.find(request.params.name)));
    app.post('/takes/:name/stop', one, async (request) => viewTake(await takes.stop(request.params.name)));

    app.delete(
      '/takes/:name',
      { schema: { tags, params: byName, response: { 204: z.null() } } },
      async (request, reply) => {
        await takes.remove(request.params.name);
        return reply.code(204).send(null);
      },
    );

    const listing = { schema: { tags, params: byName, querystring: page, response: { 200: exchangeListSchema } } };
    app.get('/takes/:name/exchanges', listing, async (request) => {
      const { after, limit } = request.query;
      const found = await takes.exchanges(request.params.name, after, limit);
      return { exchanges: found.map(viewExchange), next: found.length < limit ? null : (found.at(-1)?.index ?? null) };
    });

    const byIndex = z.object({ name: z.string(), index: z.coerce.number().int().min(0) });
    const detail = { schema: { tags, params: byIndex, response: { 200: exchangeDetailSchema } } };
    app.get('/takes/:name/exchanges/:index', detail, async (request) => {
      const { name, index } = request.params;
      const [exchange] = await takes.exchanges(name, index - 1, 1);
      if (exchange?.index !== index) throw new AppError('take-unknown', `the take ${name} has no exchange #${index}`);
      return viewExchangeDetail(exchange);
    });

    app.get('/takes/:name/har', { schema: { tags, params: byName } }, async (request, reply) => {
      const exchanges = await takes.allExchanges([request.params.name]);
      return reply.type('application/json').send(writeHar(exchanges, version));
    });

    const drafting = { schema: { tags, params: byName, body: draftRequestSchema, response: { 200: draftViewSchema } } };
    app.post('/takes/:name/draft', drafting, async (request) => {
      const { with: others, service, overrules, ...choices } = request.body;
      const { name } = request.params;
      const exchanges = await takes.allExchanges([name, ...others]);
      if (exchanges.length === 0) throw new AppError('file-unreadable', `nothing was heard in ${name} yet`);
      const draft = await draftInWorker({
        exchanges,
        options: { ...choices, service: service ?? name, overrules: new Map(Object.entries(overrules)) },
      });
      return draftViewSchema.parse(draft);
    });
  };
}

/** The schema has seen to it that exactly one of `from` and `proxy` is there. */
function readHearing({
  from,
  proxy,
  rewrites,
  authority,
}: Omit<z.output<typeof takeStartSchema>, 'name' | 'port' | 'masks'>): Hearing {
  return proxy === undefined
    ? { kind: 'relay', from: from ?? '', rewrites, authority }
    : { kind: 'proxy', hosts: proxy.hosts, authority };
}
