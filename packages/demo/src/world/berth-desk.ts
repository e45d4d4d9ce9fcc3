import { randomBytes, randomUUID } from 'node:crypto';
import fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from 'fastify';

interface Booking {
  readonly id: string;
  readonly berthId: string;
  readonly vessel: { readonly name: string; readonly imo: string; readonly length?: number };
  readonly state: 'requested' | 'held' | 'confirmed' | 'released';
  readonly bookedAt: string;
  readonly confirmedAt?: string;
}

const BERTHS = [
  { id: 'N7', quay: 'North', depth: 8.5, length: 140 },
  { id: 'N8', quay: 'North', depth: 7.2, length: 110 },
  { id: 'S1', quay: 'South', depth: 5.4, length: 60 },
];
const TOKEN_LIFE_MS = 3_600_000;

/**
 * The real berth desk: berths and bookings, in memory, with generated ids, tokens and times. On purpose it differs from its
 * contract in three ways: free berths come without the Cache-Control that is promised, nobody knows a berth's neighbours,
 * and a release answers 200 with the booking in the place of 204.
 */
export function createBerthDesk(): FastifyInstance {
  const app = fastify();
  const bookings = new Map<string, Booking>();
  const tokens = new Set<string>();
  const isFree = (berthId: string): boolean =>
    ![...bookings.values()].some((booking) => booking.berthId === berthId && booking.state !== 'released');
  const isKnown = (request: FastifyRequest): boolean =>
    tokens.has((request.headers.authorization ?? '').replace(/^Bearer /, ''));
  addBerths(app, isFree);
  app.post<{ Body: { user?: string } }>('/login', async (request, reply) => {
    if (request.body.user === undefined) return refuse(reply, 422, 'user is needed');
    const token = randomBytes(18).toString('base64url');
    tokens.add(token);
    return { token, user: request.body.user, expiresAt: new Date(Date.now() + TOKEN_LIFE_MS).toISOString() };
  });
  app.post<{ Body: { berthId?: string; vessel?: Booking['vessel'] } }>('/bookings', async (request, reply) => {
    if (!isKnown(request)) return refuse(reply, 401, 'Log in first');
    const { berthId, vessel } = request.body;
    if (berthId === undefined || vessel === undefined) return refuse(reply, 422, 'berthId and vessel are needed');
    if ((vessel.length ?? 0) > lengthOf(berthId))
      return refuse(reply, 409, `${vessel.name} is too long for ${berthId}`);
    if (!isFree(berthId)) return refuse(reply, 409, `Berth ${berthId} is taken`);
    const id = randomUUID();
    const booking: Booking = { id, berthId, vessel, state: 'requested', bookedAt: new Date().toISOString() };
    bookings.set(id, booking);
    return reply.code(201).header('location', `/bookings/${id}`).send(booking);
  });
  app.get<{ Querystring: { state?: string } }>('/bookings', async (request) => {
    const { state } = request.query;
    const listed = [...bookings.values()].filter((booking) => state === undefined || booking.state === state);
    return { bookings: listed, total: listed.length };
  });
  app.get<{ Params: { id: string } }>(
    '/bookings/:id',
    async (request, reply) => bookings.get(request.params.id) ?? refuse(reply, 404, 'No such booking'),
  );
  addChanges(app, bookings);
  return app;
}

function addBerths(app: FastifyInstance, isFree: (berthId: string) => boolean): void {
  const view = (berth: (typeof BERTHS)[number]) => ({ ...berth, free: isFree(berth.id) });
  app.get('/berths', async () => ({ berths: BERTHS.map(view), total: BERTHS.length }));
  app.get('/berths/free', async () => {
    const free = BERTHS.filter((berth) => isFree(berth.id));
    return { berths: free.map(view), total: free.length };
  });
  app.get<{ Params: { berthId: string } }>('/berths/:berthId', async (request, reply) => {
    const berth = BERTHS.find((item) => item.id === request.params.berthId);
    return berth === undefined ? refuse(reply, 404, 'No such berth') : view(berth);
  });
}

function addChanges(app: FastifyInstance, bookings: Map<string, Booking>): void {
  const change = (id: string, reply: FastifyReply, changes: Partial<Booking>): FastifyReply | Booking => {
    const booking = bookings.get(id);
    if (booking === undefined) return refuse(reply, 404, 'No such booking');
    const changed = { ...booking, ...changes };
    bookings.set(id, changed);
    return changed;
  };
  app.patch<{ Params: { id: string }; Body: { vessel?: Booking['vessel'] } }>('/bookings/:id', async (request, reply) =>
    change(request.params.id, reply, request.body),
  );
  app.post<{ Params: { id: string } }>('/bookings/:id/hold', async (request, reply) =>
    change(request.params.id, reply, { state: 'held' }),
  );
  app.post<{ Params: { id: string } }>('/bookings/:id/confirm', async (request, reply) => {
    if (bookings.get(request.params.id)?.state === 'requested') return refuse(reply, 409, 'Hold the booking first');
    return change(request.params.id, reply, { state: 'confirmed', confirmedAt: new Date().toISOString() });
  });
  app.post<{ Params: { id: string } }>('/bookings/:id/release', async (request, reply) =>
    change(request.params.id, reply, { state: 'released' }),
  );
}

function lengthOf(berthId: string): number {
  return BERTHS.find(({ id }) => id === berthId)?.length ?? Number.POSITIVE_INFINITY;
}

function refuse(reply: FastifyReply, status: number, title: string): FastifyReply {
  return reply.code(status).type('application/problem+json').send({ title, status });
}
