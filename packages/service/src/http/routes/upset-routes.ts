import { AppError, upsetSchema } from '@upsetter/core';
import { upsetStateSchema } from '@upsetter/core/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { Mock } from '../../mocks/mock.js';
import type { ApiContext } from '../context.js';

const byName = z.object({ name: z.string() });
const byUpset = z.object({ name: z.string(), upset: z.string() });
const states = { 200: z.array(upsetStateSchema) };

/** Upsets of a running mock: add, switch, calm. At once, without a new revision. */
export function upsetRoutes({ mocks }: ApiContext): FastifyPluginAsyncZod {
  return async (app) => {
    app.get(
      '/services/:name/upsets',
      { schema: { tags: ['upsets'], params: byName, response: states } },
      async (request) => viewUpsets(mocks.get(request.params.name)),
    );

    app.put(
      '/services/:name/upsets',
      { schema: { tags: ['upsets'], params: byName, body: upsetSchema, response: states } },
      async (request) => {
        mocks.putUpset(request.params.name, request.body);
        return viewUpsets(mocks.get(request.params.name));
      },
    );

    const switching = {
      schema: { tags: ['upsets'], params: byUpset, body: z.object({ inForce: z.boolean() }), response: states },
    };
    app.put('/services/:name/upsets/:upset/switch', switching, async (request) => {
      const mock = mocks.get(request.params.name);
      if (!mock.switchUpset(request.params.upset, request.body.inForce)) {
        const names = mock.upsets().map((upset) => upset.compiled.name);
        throw new AppError(
          'upset-unknown',
          `${mock.name} has no upset ${request.params.upset}${names.length === 0 ? '' : `; it has ${names.join(', ')}`}`,
        );
      }
      return viewUpsets(mock);
    });

    const calming = { schema: { tags: ['upsets'], params: byName, response: { 200: z.object({ calmed: z.int() }) } } };
    app.post('/services/:name/calm', calming, async (request) => ({ calmed: mocks.get(request.params.name).calm() }));
  };
}

function viewUpsets(mock: Mock) {
  return mock.upsets().map(({ compiled, from, inForce }) => ({ definition: compiled.definition, from, inForce }));
}
