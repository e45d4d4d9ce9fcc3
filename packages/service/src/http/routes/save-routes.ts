import { mergeDraft, replaceAnswer, requireService, serviceKeySchema } from '@upsetter/core';
import { savedSchema, saveRequestSchema } from '@upsetter/core/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { ApiContext } from '../context.js';
import { readIfMatch, setRevision } from '../revision-header.js';
import { viewSaved } from './view-saved.js';

const tags = ['services'];
const byCase = z.object({ name: z.string(), operation: z.string(), case: z.string() });

/** Services, changed: saved by file, one answer edited in place, removed. Every save is a revision. */
export function saveRoutes({ mocks }: ApiContext): FastifyPluginAsyncZod {
  return async (app) => {
    const saving = {
      schema: {
        tags,
        params: z.object({ name: serviceKeySchema }),
        body: saveRequestSchema,
        response: { 200: savedSchema, 201: savedSchema },
      },
    };
    app.put('/services/:name', saving, async (request, reply) => {
      const { file, files, note, merge = false, reset = false } = request.body;
      const { name } = request.params;
      const before = merge ? (mocks.list().find((mock) => mock.name === name) ?? null) : null;
      if (before !== null) requireService(file, files);
      const merged =
        before === null
          ? null
          : mergeDraft({ text: before.saved.file, files: before.saved.files }, { text: file, files: files ?? {} });
      const { mock, created, changed } = await mocks.save(name, merged ?? { text: file, files }, {
        note: note ?? null,
        basedOn: readIfMatch(request) ?? before?.saved.revision ?? null,
        reset,
      });
      setRevision(reply, mock);
      return reply.code(created ? 201 : 200).send(viewSaved(mock, created, changed, merged));
    });

    const editing = {
      schema: { tags, params: byCase, body: z.object({ answer: z.string() }), response: { 200: savedSchema } },
    };
    app.put('/services/:name/operations/:operation/cases/:case/answer', editing, async (request, reply) => {
      const { name, operation, case: caseName } = request.params;
      const before = mocks.get(name);
      const file = replaceAnswer(before.saved.file, operation, caseName, request.body.answer);
      const basedOn = readIfMatch(request) ?? before.saved.revision;
      const { mock, changed } = await mocks.save(
        name,
        { text: file },
        { note: `answer of ${operation} / ${caseName}`, basedOn },
      );
      setRevision(reply, mock);
      return viewSaved(mock, false, changed);
    });

    app.delete(
      '/services/:name',
      { schema: { tags, params: z.object({ name: z.string() }), response: { 204: z.null() } } },
      async (request, reply) => {
        await mocks.remove(request.params.name);
        return reply.code(204).send(null);
      },
    );
  };
}
