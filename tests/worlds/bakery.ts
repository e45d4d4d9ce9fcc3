import { randomBytes } from 'node:crypto';
import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Line {
  readonly id: string;
  readonly bread: string;
  readonly quantity: number;
}

interface Order {
  readonly id: string;
  readonly customer: string;
  readonly status: string;
  readonly placed: string;
  readonly lines: readonly Line[];
}

/** A login by form that sets a cookie; one thing of its kind (the till); lines within orders; a plain text; a soft removal; upper case in headers. */
function createBakery(): FastifyInstance {
  const app = fastify();
  app.addContentTypeParser('application/x-www-form-urlencoded', { parseAs: 'string' }, (_request, body, done) =>
    done(null, Object.fromEntries(new URLSearchParams(String(body)))),
  );
  const sessions = new Map<string, string>();
  const orders = new Map<string, Order>();
  let till = { open: false, float: 50, note: 'closed for the night' };
  app.addHook('onRequest', async (request, reply) => {
    if (request.url === '/session' || request.url === '/opening-hours') return;
    const cookie = /oven=([^;]+)/.exec(request.headers.cookie ?? '')?.[1] ?? '';
    if (!sessions.has(cookie)) await reply.code(403).send({ reason: 'no session' });
  });
  app.post<{ Body: { baker?: string } }>('/session', async (request, reply) => {
    const id = randomBytes(12).toString('hex');
    sessions.set(id, request.body.baker ?? '');
    return reply.code(204).header('set-cookie', `oven=${id}; Path=/; HttpOnly`).send();
  });
  app.get('/opening-hours', async (_request, reply) => reply.type('text/plain').send('Six to noon, not on Mondays.\n'));
  app.get('/till', async () => till);
  app.put<{ Body: typeof till }>('/till', async (request) => {
    till = request.body;
    return till;
  });
  app.post<{ Body: { customer?: string } }>('/orders', async (request, reply) => {
    const { customer } = request.body;
    if (customer === undefined || customer === '') return reply.code(400).send({ reason: 'customer is empty' });
    const id = `ORD-${randomBytes(4).toString('hex')}`;
    const order: Order = {
      id,
      customer,
      status: 'open',
      placed: new Date().toISOString().replace(/\.\d+Z$/, 'Z'),
      lines: [],
    };
    orders.set(id, order);
    return reply.code(201).send(order);
  });
  app.get('/orders', async () => ({
    orders: [...orders.values()]
      .filter(({ status }) => status !== 'cancelled')
      .map(({ id, customer, status }) => ({ id, customer, status })),
  }));
  const find = (id: string): Order | undefined => orders.get(id);
  app.get<{ Params: { id: string } }>('/orders/:id', async (request, reply) => {
    return find(request.params.id) ?? reply.code(404).send({ reason: `order ${request.params.id} is not known` });
  });
  app.post<{ Params: { id: string }; Body: { bread: string; quantity: number } }>(
    '/orders/:id/lines',
    async (request, reply) => {
      const order = find(request.params.id);
      if (order === undefined) return reply.code(404).send({ reason: `order ${request.params.id} is not known` });
      const line = { id: `L${randomBytes(5).toString('hex')}`, ...request.body };
      orders.set(order.id, { ...order, lines: [...order.lines, line] });
      return reply.code(201).send(line);
    },
  );
  app.delete<{ Params: { id: string } }>('/orders/:id', async (request, reply) => {
    const order = find(request.params.id);
    if (order === undefined) return reply.code(404).send({ reason: `order ${request.params.id} is not known` });
    if (order.status === 'cancelled') return reply.code(409).send({ reason: 'cancelled already' });
    orders.set(order.id, { ...order, status: 'cancelled' });
    return { id: order.id, status: 'cancelled' };
  });
  return app;
}

interface Day {
  readonly baker: string;
  readonly note: string;
  readonly orders: readonly {
    readonly customer: string;
    readonly lines: readonly (readonly [bread: string, quantity: number])[];
  }[];
}

async function play(ask: Ask, day: Day): Promise<void> {
  expectThat((await ask('GET', '/orders')).status === 403, 'nobody without a session');
  const login = await ask('POST', '/session', { form: { baker: day.baker } });
  const cookie = (login.headers.get('set-cookie') ?? '').split(';')[0] ?? '';
  expectThat(login.status === 204 && cookie.startsWith('oven='), 'a cookie');
  const headers = { cookie };
  expectThat(String((await ask('GET', '/opening-hours')).json).startsWith('Six to noon'), 'the hours as text');
  expectThat(!((await ask('GET', '/till', { headers })).json as { open: boolean }).open, 'the till closed');
  const till = { open: true, float: 80, note: day.note };
  expectThat(
    ((await ask('PUT', '/till', { json: till, headers })).json as typeof till).note === day.note,
    'the till as put',
  );
  expectThat(((await ask('GET', '/till', { headers })).json as typeof till).note === day.note, 'the till kept');
  const made: Order[] = [];
  for (const { customer, lines } of day.orders) {
    const order = (await ask('POST', '/orders', { json: { customer }, headers })).json as Order;
    expectThat(order.customer === customer && order.status === 'open' && order.lines.length === 0, 'an order');
    for (const [bread, quantity] of lines) {
      const line = (await ask('POST', `/orders/${order.id}/lines`, { json: { bread, quantity }, headers }))
        .json as Line;
      expectThat(line.bread === bread && line.quantity === quantity && line.id.startsWith('L'), 'a line');
    }
    const whole = (await ask('GET', `/orders/${order.id}`, { headers })).json as Order;
    expectThat(
      whole.lines.map(({ bread }) => bread).join() === lines.map(([bread]) => bread).join(),
      'its lines in order',
    );
    made.push(order);
  }
  expectThat((await ask('POST', '/orders', { json: { customer: '' }, headers })).status === 400, 'no order of nobody');
  const [first] = made as [Order, ...Order[]];
  const list = async (): Promise<readonly Order[]> =>
    ((await ask('GET', '/orders', { headers })).json as { orders: Order[] }).orders;
  expectThat((await list()).length === made.length, 'all orders');
  expectThat(
    ((await ask('DELETE', `/orders/${first.id}`, { headers })).json as Order).status === 'cancelled',
    'it cancelled',
  );
  expectThat((await ask('DELETE', `/orders/${first.id}`, { headers })).status === 409, 'it cancelled once only');
  expectThat(
    ((await ask('GET', `/orders/${first.id}`, { headers })).json as Order).status === 'cancelled',
    'it still known',
  );
  expectThat(
    (await list()).every(({ id }) => id !== first.id),
    'it not listed',
  );
  const missing = await ask('GET', '/orders/ORD-00000000', { headers });
  expectThat((missing.json as { reason: string }).reason === 'order ORD-00000000 is not known', 'no such order');
}

export const bakery: World = {
  habits:
    'a cookie from a form, a thing that is one of its kind, things within things, plain text, removal that only marks',
  create: createBakery,
  first: (ask) =>
    play(ask, {
      baker: 'Bo',
      note: 'open for all',
      orders: [
        {
          customer: 'Ida',
          lines: [
            ['rye', 2],
            ['spelt', 1],
          ],
        },
        { customer: 'Ola', lines: [['oat', 4]] },
      ],
    }),
  similar: (ask) =>
    play(ask, {
      baker: 'Una',
      note: 'half a day',
      orders: [
        {
          customer: 'Per',
          lines: [
            ['bun', 6],
            ['roll', 3],
          ],
        },
        { customer: 'Eli', lines: [['loaf', 1]] },
      ],
    }),
  second: (ask) =>
    play(ask, {
      baker: 'Siv',
      note: 'market day',
      orders: [
        { customer: 'Kai', lines: [['malt', 5]] },
        {
          customer: 'Liv',
          lines: [
            ['corn', 2],
            ['seed', 2],
          ],
        },
        {
          customer: 'Mo',
          lines: [
            ['plait', 1],
            ['stick', 9],
          ],
        },
      ],
    }),
};
