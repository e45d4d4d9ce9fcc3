import { AppError, acceptDifference, adoptDifference, renderTrialJunit, renderTrialPage } from '@upsetter/core';
import {
  finishedTrialSchema,
  savedSchema,
  trialAcceptSchema,
  trialDetailSchema,
  trialPlaceSchema,
  trialStartSchema,
  trialSummarySchema,
} from '@upsetter/core/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { ApiContext } from '../context.js';
import { viewSaved } from './view-saved.js';

const tags = ['trials'];
const byService = z.object({ name: z.string() });
const byId = z.object({ id: z.string() });

/** Trials of services against real implementations: begun, followed, kept, and what becomes of their differences. */
export function trialRoutes({ mocks, trials }: ApiContext): FastifyPluginAsyncZod {
  return async (app) => {
    const listing = { schema: { tags, params: byService, response: { 200: z.array(trialSummarySchema) } } };
    app.get('/services/:name/trials', listing, async (request) => trials.list(mocks.get(request.params.name).name));

    const starting = {
      schema: { tags, params: byService, body: trialStartSchema, response: { 202: trialSummarySchema } },
    };
    app.post('/services/:name/trials', starting, async (request, reply) =>
      reply.code(202).send(trials.start(mocks.get(request.params.name), request.body)),
    );

    const keeping = {
      schema: { tags, params: byService, body: finishedTrialSchema, response: { 201: trialSummarySchema } },
    };
    app.post('/services/:name/trials/finished', keeping, async (request, reply) =>
      reply.code(201).send(await trials.keep(mocks.get(request.params.name).name, request.body)),
    );

    app.get('/trials/:id', { schema: { tags, params: byId, response: { 200: trialDetailSchema } } }, async (request) =>
      trials.find(request.params.id),
    );
    app.get('/trials/:id/page', { schema: { tags, params: byId } }, async (request, reply) =>
      reply.type('text/html; charset=utf-8').send(renderTrialPage(await trials.find(request.params.id))),
    );
    app.get('/trials/:id/junit', { schema: { tags, params: byId } }, async (request, reply) =>
      reply.type('application/xml').send(renderTrialJunit(await trials.find(request.params.id))),
    );
    const stopping = { schema: { tags, params: byId, response: { 200: trialDetailSchema } } };
    app.post('/trials/:id/stop', stopping, async (request) => {
      await trials.stop(request.params.id);
      return trials.find(request.params.id);
    });

    const adopting = { schema: { tags, params: byId, body: trialPlaceSchema, response: { 200: savedSchema } } };
    app.post('/trials/:id/adopt', adopting, async (request) => {
      const { operation, case: name, at } = request.body;
      const { service } = await trials.find(request.params.id);
      const { got } = await trials.findStep(request.params.id, operation, name);
      if (got === null) throw new AppError('wrong-use', 'no answer came: there is nothing to adopt');
      const { saved } = mocks.get(service);
      const text = adoptDifference({ text: saved.file, files: saved.files }, { operation, case: name, at }, got);
      const note = `adopted from a trial: ${at} of ${operation} / ${name}`;
      const { mock, changed } = await mocks.save(service, text, { note, basedOn: saved.revision });
      return viewSaved(mock, false, changed);
    });

    const accepting = { schema: { tags, params: byId, body: trialAcceptSchema, response: { 200: savedSchema } } };
    app.post('/trials/:id/accept', accepting, async (request) => {
      const { operation, case: name, at, because, in: where } = request.body;
      const { service } = await trials.find(request.params.id);
      const { saved } = mocks.get(service);
      const text = acceptDifference(saved.file, operation, name, {
        at,
        because,
        ...(where === null ? {} : { in: where }),
      });
      const note = `accepted from a trial: ${at} of ${operation}${name === null ? '' : ` / ${name}`}`;
      const { mock, changed } = await mocks.save(service, { text }, { note, basedOn: saved.revision });
      return viewSaved(mock, false, changed);
    });
  };
}
