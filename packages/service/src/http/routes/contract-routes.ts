import { completedSchema, contractReportSchema, wantedPartSchema } from '@upsetter/core/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { runContractTask } from '../../contracts/run-contract-task.js';
import type { ApiContext } from '../context.js';

const tags = ['contracts'];
const params = z.object({ name: z.string() });

/** How a service keeps to the contract it names, and what completes it. */
export function contractRoutes({ mocks, reports }: ApiContext): FastifyPluginAsyncZod {
  return async (app) => {
    app.get(
      '/services/:name/contract',
      { schema: { tags, params, response: { 200: z.object({ report: contractReportSchema.nullable() }) } } },
      async (request) => ({ report: await reports.read(mocks.get(request.params.name)) }),
    );

    const completing = {
      schema: {
        tags,
        params,
        body: z.object({ wanted: wantedPartSchema.nullable() }),
        response: { 200: completedSchema },
      },
    };
    app.post('/services/:name/contract/complete', completing, async (request) => {
      const { saved } = mocks.get(request.params.name);
      const { wanted } = request.body;
      const { text, files, added } = await runContractTask({
        kind: 'complete',
        text: saved.file,
        files: saved.files,
        wanted,
      });
      return { file: text, files: { ...files }, added: [...added] };
    });
  };
}
