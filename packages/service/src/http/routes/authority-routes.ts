import { X509Certificate } from 'node:crypto';
import { type AuthorityView, authorityViewSchema, issuedSchema, issueSchema } from '@upsetter/core/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import type { ApiContext } from '../context.js';

/** The certificate of Upsetter's own authority, for applications to trust. Its key leaves the machine on no way. */
export function authorityRoutes({ authority }: ApiContext): FastifyPluginAsyncZod {
  return async (app) => {
    const tags = ['authority'];
    app.get('/authority', { schema: { tags, response: { 200: authorityViewSchema } } }, async () =>
      viewAuthority((await authority.open()).certificatePem),
    );
    app.post(
      '/authority/clients',
      { schema: { tags, body: issueSchema, response: { 201: issuedSchema } } },
      async ({ body: { name } }, reply) => {
        const { certificatePem, keyPem } = await (await authority.open()).issueClient(name);
        return reply.code(201).send({ name, certificate: certificatePem, key: keyPem });
      },
    );
    app.get('/authority.pem', { schema: { tags } }, async (_request, reply) => {
      const { certificatePem } = await authority.open();
      return reply
        .type('application/x-pem-file')
        .header('content-disposition', 'attachment; filename="upsetter-authority.pem"')
        .send(certificatePem);
    });
  };
}

function viewAuthority(certificate: string): AuthorityView {
  const { subject, fingerprint256, validTo } = new X509Certificate(certificate);
  return {
    name: subject.replace(/^CN=/, ''),
    certificate,
    fingerprint: fingerprint256,
    validUntil: new Date(validTo).toISOString(),
  };
}
