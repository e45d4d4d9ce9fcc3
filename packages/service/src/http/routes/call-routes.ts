import {
  answeredSchema,
  answerRequestSchema,
  callDetailSchema,
  callListSchema,
  callQuerySchema,
  checkRequestSchema,
  checkRunSchema,
  takeSummarySchema,
  whySchema,
} from '@upsetter/core/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { answerCall } from '../../calls/answer-call.js';
import { viewCall, viewCallDetail } from '../../calls/call-view.js';
import { explainRecord } from '../../calls/explain-record.js';
import { runChecks } from '../../checks/run-checks.js';
import { keepCall } from '../../takes/keep-call.js';
import { viewTake } from '../../takes/take-view.js';
import type { ApiContext } from '../context.js';

const byId = z.object({
  id: z.string().regex(/^[0-9a-f-]{4,36}$/, { error: 'an id of a call, or 4 characters or more of it' }),
});

/** Calls received, why they were answered so, and checks over them. */
export function callRoutes(context: ApiContext): FastifyPluginAsyncZod {
  const { log, store, mocks, takes } = context;
  return async (app) => {
    app.get(
      '/calls',
      { schema: { tags: ['calls'], querystring: callQuerySchema, response: { 200: callListSchema } } },
      async (request) => {
        const { service = null, operation = null, lane = null, before = null, limit } = request.query;
        const { strays: straysOnly = false, findings: findingsOnly = false } = request.query;
        const records = await log.list({ service, operation, lane, straysOnly, findingsOnly, before, limit });
        return {
          calls: records.map(viewCall),
          next: records.length === limit ? (records.at(-1)?.request.id ?? null) : null,
        };
      },
    );

    app.get(
      '/calls/:id',
      { schema: { tags: ['calls'], params: byId, response: { 200: callDetailSchema } } },
      async (request) => viewCallDetail(await log.find(request.params.id)),
    );

    app.get(
      '/calls/:id/why',
      { schema: { tags: ['calls'], params: byId, response: { 200: whySchema } } },
      async (request) => {
        const record = await log.find(request.params.id);
        return { call: viewCall(record), why: await explainRecord(record, store) };
      },
    );

    app.post(
      '/calls/:id/keep',
      { schema: { tags: ['takes'], params: byId, response: { 200: takeSummarySchema } } },
      async (request) => {
        const record = await log.find(request.params.id);
        const compiled =
          record.compiled ?? mocks.list().find(({ name }) => name === record.service)?.live.compiled ?? null;
        return viewTake(await keepCall(record, compiled, takes));
      },
    );

    app.post(
      '/calls/:id/answer',
      {
        schema: { tags: ['services'], params: byId, body: answerRequestSchema, response: { 200: answeredSchema } },
      },
      async (request) => answerCall(await log.find(request.params.id), request.body.answer ?? null, mocks),
    );

    app.post(
      '/checks/run',
      { schema: { tags: ['checks'], body: checkRequestSchema, response: { 200: checkRunSchema } } },
      async (request) => runChecks(request.body, context),
    );
  };
}
