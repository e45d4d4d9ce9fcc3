import fastify from 'fastify';

/** The other side of the comparison: what a careful person writes by hand with Fastify 5, response schema included. */
const app = fastify();
const berth = {
  type: 'object',
  properties: {
    id: { type: 'string' },
    quay: { type: 'string' },
    depth: { type: 'number' },
    note: { type: 'string' },
    at: { type: 'string' },
  },
} as const;

app.get<{ Params: { berthId: string }; Querystring: { quay?: string } }>(
  '/berths/:berthId',
  { schema: { response: { 200: berth } } },
  async (request) => ({
    id: request.params.berthId,
    quay: request.query.quay,
    depth: 8.5,
    note: `Berth ${request.params.berthId} is held`,
    at: new Date().toISOString(),
  }),
);

console.log(await app.listen({ host: '127.0.0.1', port: 0 }));
