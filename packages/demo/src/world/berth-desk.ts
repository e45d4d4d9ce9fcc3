import { randomUUID } from 'node:crypto';
import fastify, { type FastifyInstance, type FastifyReply } from 'fastify';

interface Booking {
  readonly id: string;
  readonly berthId: string;
  readonly vessel: { readonly name: string; readonly imo: string };
  readonly state: 'requested' | 'held' | 'confirmed' | 'released';
  readonly bookedAt: string;
}

const BERTHS = [
  { id: 'N7', quay: 'North', depth: 8.5, length: 140 },
  { id: 'N8', quay: 'North', depth: 7.2, length: 110 },
  { id: 'S1', quay: 'South', depth: 5.4, length: 60 },
];

/** The real berth desk: berths and bookings, in memory, with generated ids and times. */
export function createBerthDesk(): FastifyInstance {
  const app = fastify();
  const bookings = new Map<string, Booking>();
  const isFree = (berthId: string): boolean =>
    ![...bookings.values()].some((booking) => booking.berthId === berthId && booking.state !== 'released');
  app.get('/berths', async () => ({
    berths: BERTHS.map((berth) => ({ ...berth, free: isFree(berth.id) })),
    total: BERTHS.length,
  }));
  app.get('/berths/free', async () => ({
    berths: BERTHS.filter((berth) => isFree(berth.id)),
    total: BERTHS.filter((berth) => isFree(berth.id)).length,
  }));
  app.get<{ Params: { berthId: string } }>('/berths/:berthId', async (request, reply) => {
    const berth = BERTHS.find((item) => item.id === request.params.berthId);
    return berth === undefined ? refuse(reply, 404, 'No such berth') : { ...berth, free: isFree(berth.id) };
  });
  app.post<{ Body: { berthId?: string; vessel?: Booking['vessel'] } }>('/bookings', async (request, reply) => {
    const { berthId, vessel } = request.body;
    if (berthId === undefined || vessel === undefined) return refuse(reply, 422, 'berthId and vessel are needed');
    if (!isFree(berthId)) return refuse(reply, 409, `Berth ${berthId} is taken`);
    const booking: Booking = {
      id: randomUUID(),
      berthId,
      vessel,
      state: 'requested',
      bookedAt: new Date().toISOString(),
    };
    bookings.set(booking.id, booking);
    return reply.code(201).header('location', `/bookings/${booking.id}`).send(booking);
  });
  app.get<{ Params: { id: string } }>(
    '/bookings/:id',
    async (request, reply) => bookings.get(request.params.id) ?? refuse(reply, 404, 'No such booking'),
  );
  for (const [step, state] of [
    ['hold', 'held'],
    ['confirm', 'confirmed'],
    ['release', 'released'],
  ] as const) {
    app.post<{ Params: { id: string } }>(`/bookings/:id/${step}`, async (request, reply) => {
      const booking = bookings.get(request.params.id);
      if (booking === undefined) return refuse(reply, 404, 'No such booking');
      bookings.set(booking.id, { ...booking, state });
      return bookings.get(booking.id);
    });
  }
  return app;
}

function refuse(reply: FastifyReply, status: number, title: string): FastifyReply {
  return reply.code(status).type('application/problem+json').send({ title, status });
}
