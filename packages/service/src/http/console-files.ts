import { randomBytes } from 'node:crypto';
import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import fastifyHelmet from '@fastify/helmet';
import fastifyStatic from '@fastify/static';
import type { FastifyInstance, FastifyReply } from 'fastify';

const NONCE_MARK = '__CSP_NONCE__';

type WithNonce = { cspNonce?: string };

/** Security headers everywhere: a strict Content-Security-Policy whose style nonce is new for each page. */
export async function registerSecurityHeaders(app: FastifyInstance): Promise<void> {
  app.addHook('onRequest', async (_request, reply) => {
    (reply.raw as WithNonce).cspNonce = randomBytes(16).toString('base64');
  });
  await app.register(fastifyHelmet, {
    strictTransportSecurity: false,
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        'default-src': ["'none'"],
        'script-src': ["'self'"],
        'style-src': [
          "'self'",
          (_request: unknown, response: unknown) => `'nonce-${(response as WithNonce).cspNonce ?? ''}'`,
        ],
        'font-src': ["'self'"],
        'img-src': ["'self'"],
        'connect-src': ["'self'"],
        'base-uri': ["'none'"],
        'form-action': ["'self'"],
        'frame-ancestors': ["'none'"],
        'object-src': ["'none'"],
      },
    },
  });
}

/** The built console: its files as they are, its one page for every other path, so that links to a selection work. */
export async function registerConsole(app: FastifyInstance, directory: string | null): Promise<void> {
  const index = directory === null ? null : join(directory, 'index.html');
  if (directory === null || index === null || !existsSync(index)) return;
  // Read for each page view, so that a console built anew is served without a restart.
  const sendPage = async (reply: FastifyReply) =>
    reply
      .type('text/html; charset=utf-8')
      .header('cache-control', 'no-store')
      .send((await readFile(index, 'utf8')).replaceAll(NONCE_MARK, (reply.raw as WithNonce).cspNonce ?? ''));
  await app.register(fastifyStatic, {
    root: join(directory, 'assets'),
    prefix: '/assets/',
    immutable: true,
    maxAge: '365d',
  });
  app.get('/', { schema: { hide: true } }, async (_request, reply) => sendPage(reply));
  app.get('/:place(services|takes|calls|contracts)', { schema: { hide: true } }, async (_request, reply) =>
    sendPage(reply),
  );
  app.get('/:place(services|takes|calls|contracts)/*', { schema: { hide: true } }, async (_request, reply) =>
    sendPage(reply),
  );
}
