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

const arrival = {
  type: 'object',
  properties: {
    no: { type: 'number' },
    vessel: { type: 'string' },
    before: { type: ['string', 'null'] },
    at: { type: 'string' },
  },
} as const;
const closed = new Set<string>();
const last = new Map<string, string>();
let arrivals = 0;

app.post<{ Params: { berthId: string }; Body: { vessel?: string } }>(
  '/berths/:berthId/arrivals',
  { schema: { response: { 201: arrival } } },
  async (request, reply) => {
    const { berthId } = request.params;
    if (closed.has(berthId)) return reply.code(409).send({ title: 'Closed' });
    const { vessel } = request.body;
    if (vessel === undefined) return reply.code(404).send({ title: 'No vessel' });
    const before = last.get(berthId) ?? null;
    last.set(berthId, vessel);
    return reply.code(201).send({ no: ++arrivals, vessel, before, at: new Date().toISOString() });
  },
);

console.log(await app.listen({ host: '127.0.0.1', port: 0 }));
