import { fastifySSE } from '@fastify/sse';
import fastifySwagger from '@fastify/swagger';
import { AppError } from '@upsetter/core';
import fastify, { type FastifyBaseLogger, type FastifyInstance, LogController } from 'fastify';
import { jsonSchemaTransform, serializerCompiler, validatorCompiler } from 'fastify-type-provider-zod';
import { registerConsole, registerSecurityHeaders } from './console-files.js';
import type { ApiContext } from './context.js';
import { handleError } from './error-handler.js';
import { guardHost } from './host-guard.js';
import { authorityRoutes } from './routes/authority-routes.js';
import { callRoutes } from './routes/call-routes.js';
import { callStream } from './routes/call-stream.js';
import { contractRoutes } from './routes/contract-routes.js';
import { feedRoutes } from './routes/feed-routes.js';
import { healthRoutes } from './routes/health-routes.js';
import { laneRoutes } from './routes/lane-routes.js';
import { saveRoutes } from './routes/save-routes.js';
import { schemaRoutes } from './routes/schema-routes.js';
import { serviceRoutes } from './routes/service-routes.js';
import { takeRoutes } from './routes/take-routes.js';
import { trialRoutes } from './routes/trial-routes.js';
import { upsetRoutes } from './routes/upset-routes.js';

/** A service with a large contract beside it. */
const MAX_BODY_BYTES = 64 * 1024 * 1024;

/** The control plane: API with its own OpenAPI 3.1 document, event stream, health, and the console's files. */
export async function createApp(context: ApiContext, logger: FastifyBaseLogger): Promise<FastifyInstance> {
  const app = fastify({
    loggerInstance: logger,
    logController: new LogController({ disableRequestLogging: true }),
    bodyLimit: MAX_BODY_BYTES,
    forceCloseConnections: true,
  });
  app.setValidatorCompiler(validatorCompiler);
  app.setSerializerCompiler(serializerCompiler);
  app.setErrorHandler(handleError);
  app.setNotFoundHandler((request) => {
    throw new AppError('route-unknown', `${request.method} ${request.url} is not of this API`);
  });
  app.addHook('onRequest', guardHost);
  await registerSecurityHeaders(app);
  await app.register(fastifySSE);
  await app.register(fastifySwagger, {
    openapi: { openapi: '3.1.0', info: { title: 'Upsetter control API', version: context.version } },
    transform: jsonSchemaTransform,
  });
  await app.register(
    async (api) => {
      await api.register(serviceRoutes(context));
      await api.register(saveRoutes(context));
      await api.register(contractRoutes(context));
      await api.register(trialRoutes(context));
      await api.register(feedRoutes(context));
      await api.register(upsetRoutes(context));
      await api.register(laneRoutes(context));
      await api.register(takeRoutes(context));
      await api.register(authorityRoutes(context));
      await api.register(schemaRoutes);
      await api.register(callRoutes(context));
      callStream(api, context);
      api.get('/openapi.json', { schema: { hide: true } }, async () => app.swagger());
    },
    { prefix: '/api' },
  );
  await app.register(healthRoutes(context));
  await registerConsole(app, context.consoleDir);
  return app;
}
