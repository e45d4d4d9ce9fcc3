import { randomUUID } from 'node:crypto';
import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Good {
  readonly sku: string;
  readonly name: string;
  readonly price: number;
  readonly stock: number;
}

interface Line {
  readonly no: number;
  readonly sku: string;
  readonly price: number;
  readonly quantity: number;
  readonly amount: number;
}

interface Basket {
  readonly id: string;
  readonly sailor: string;
  readonly lines: readonly Line[];
  readonly total: number;
  readonly paid: boolean;
}

const GOODS: readonly Good[] = [
  { sku: 'ROPE-12', name: 'Rope, twelve fathoms', price: 18.5, stock: 40 },
  { sku: 'LAMP-3', name: 'Anchor lamp', price: 42, stock: 12 },
  { sku: 'TAR-1', name: 'Pine tar', price: 7.25, stock: 90 },
  { sku: 'BELL-2', name: 'Ship bell', price: 120, stock: 5 },
];

const sum = (lines: readonly Line[]): number => lines.reduce((total, { amount }) => total + amount, 0);

/** Numbers that are worked out: amounts, totals, change, a balance; prices looked up; lines numbered within their basket; stock that goes down. */
function createChandlery(): FastifyInstance {
  const app = fastify();
  const goods = new Map(GOODS.map((good) => [good.sku, good]));
  const baskets = new Map<string, Basket>();
  let account = { owner: 'Skerry chandlery', balance: 250 };
  app.get('/goods', async () => [...goods.values()]);
  app.get<{ Params: { sku: string } }>('/goods/:sku', async (request, reply) => {
    const { sku } = request.params;
    return goods.get(sku) ?? reply.code(404).send({ error: { code: 'no_good', message: `nothing is called ${sku}` } });
  });
  app.post<{ Body: { sailor: string } }>('/baskets', async (request, reply) => {
    const basket: Basket = { id: randomUUID(), sailor: request.body.sailor, lines: [], total: 0, paid: false };
    baskets.set(basket.id, basket);
    return reply.code(201).header('location', `/baskets/${basket.id}`).send(basket);
  });
  app.get<{ Params: { id: string } }>('/baskets/:id', async (request, reply) => {
    const { id } = request.params;
    return baskets.get(id) ?? reply.code(404).send({ error: { code: 'no_basket', message: `no basket ${id}` } });
  });
  app.post<{ Params: { id: string }; Body: { sku: string; quantity: number } }>(
    '/baskets/:id/lines',
    async (request, reply) => {
      const basket = baskets.get(request.params.id);
      const { sku, quantity } = request.body;
      const good = goods.get(sku);
      if (basket === undefined || good === undefined)
        return reply.code(404).send({ error: { code: 'no_good', message: `nothing is called ${sku}` } });
      const { price } = good;
      const line: Line = { no: basket.lines.length + 1, sku, price, quantity, amount: price * quantity };
      const lines = [...basket.lines, line];
      const changed = { ...basket, lines, total: sum(lines) };
      baskets.set(basket.id, changed);
      goods.set(sku, { ...good, stock: good.stock - quantity });
      return reply.code(201).send(changed);
    },
  );
  app.delete<{ Params: { id: string; no: string } }>('/baskets/:id/lines/:no', async (request, reply) => {
    const basket = baskets.get(request.params.id);
    if (basket === undefined) return reply.code(404).send({ error: { code: 'no_basket', message: 'no such basket' } });
    const lines = basket.lines.filter(({ no }) => no !== Number(request.params.no));
    const changed = { ...basket, lines, total: sum(lines) };
    baskets.set(basket.id, changed);
    return changed;
  });
  app.post<{ Params: { id: string }; Body: { given: number } }>('/baskets/:id/payment', async (request, reply) => {
    const basket = baskets.get(request.params.id);
    if (basket === undefined) return reply.code(404).send({ error: { code: 'no_basket', message: 'no such basket' } });
    const { given } = request.body;
    baskets.set(basket.id, { ...basket, paid: true });
    return { basket: basket.id, due: basket.total, given, change: given - basket.total };
  });
  app.get('/account', async () => account);
  app.post<{ Body: { amount: number } }>('/account/deposits', async (request, reply) => {
    account = { ...account, balance: account.balance + request.body.amount };
    return reply.code(201).send(account);
  });
  return app;
}

interface Day {
  readonly baskets: readonly {
    readonly sailor: string;
    readonly lines: readonly (readonly [sku: string, quantity: number])[];
    readonly without: number;
    readonly given: number;
  }[];
  readonly deposits: readonly number[];
}

async function play(ask: Ask, day: Day): Promise<void> {
  const goods = (await ask('GET', '/goods')).json as Good[];
  expectThat(goods.length === GOODS.length, 'all goods');
  const priceOf = (sku: string): number => goods.find((good) => good.sku === sku)?.price ?? 0;
  const stock = new Map(goods.map((good) => [good.sku, good.stock]));
  for (const { sailor, lines, without, given } of day.baskets) {
    const empty = await ask('POST', '/baskets', { json: { sailor } });
    const { id, total } = empty.json as Basket;
    expectThat(total === 0 && empty.headers.get('location') === `/baskets/${id}`, 'an empty basket');
    let due = 0;
    for (const [i, [sku, quantity]] of lines.entries()) {
      due += priceOf(sku) * quantity;
      const basket = (await ask('POST', `/baskets/${id}/lines`, { json: { sku, quantity } })).json as Basket;
      const line = basket.lines[i];
      expectThat(line?.price === priceOf(sku) && line.amount === priceOf(sku) * quantity, `the amount of ${sku}`);
      expectThat(line?.no === i + 1 && basket.total === due, 'the line numbered, the total worked out');
      stock.set(sku, (stock.get(sku) ?? 0) - quantity);
      expectThat(((await ask('GET', `/goods/${sku}`)).json as Good).stock === stock.get(sku), `the stock of ${sku}`);
    }
    const removed = lines[without - 1] as readonly [string, number];
    due -= priceOf(removed[0]) * removed[1];
    const less = (await ask('DELETE', `/baskets/${id}/lines/${without}`)).json as Basket;
    expectThat(less.lines.length === lines.length - 1 && less.total === due, 'a line less, the total less');
    expectThat(((await ask('GET', `/baskets/${id}`)).json as Basket).total === due, 'the total kept');
    const paid = (await ask('POST', `/baskets/${id}/payment`, { json: { given } })).json as Record<string, number>;
    expectThat(paid['due'] === due && paid['change'] === given - due, 'the change worked out');
    expectThat(((await ask('GET', `/baskets/${id}`)).json as Basket).paid, 'the basket paid');
  }
  let { balance } = (await ask('GET', '/account')).json as { balance: number };
  for (const amount of day.deposits) {
    balance += amount;
    const account = (await ask('POST', '/account/deposits', { json: { amount } })).json as { balance: number };
    expectThat(account.balance === balance, 'the balance after a deposit');
    expectThat(((await ask('GET', '/account')).json as typeof account).balance === balance, 'the balance kept');
  }
  const missing = await ask('GET', '/goods/OAR-9');
  expectThat((missing.json as { error: { message: string } }).error.message === 'nothing is called OAR-9', 'no oars');
}

export const chandlery: World = {
  habits: 'numbers that are worked out, prices looked up, lines numbered within their basket, stock that goes down',
  create: createChandlery,
  first: (ask) =>
    play(ask, {
      baskets: [
        {
          sailor: 'Ida',
          lines: [
            ['ROPE-12', 2],
            ['LAMP-3', 1],
            ['TAR-1', 4],
          ],
          without: 2,
          given: 100,
        },
        {
          sailor: 'Ola',
          lines: [
            ['TAR-1', 3],
            ['BELL-2', 1],
          ],
          without: 1,
          given: 150,
        },
      ],
      deposits: [66, 120],
    }),
  similar: (ask) =>
    play(ask, {
      baskets: [
        {
          sailor: 'Per',
          lines: [
            ['LAMP-3', 2],
            ['TAR-1', 5],
            ['ROPE-12', 1],
          ],
          without: 1,
          given: 200,
        },
        {
          sailor: 'Eli',
          lines: [
            ['BELL-2', 2],
            ['ROPE-12', 6],
          ],
          without: 2,
          given: 500,
        },
      ],
      deposits: [40, 15],
    }),
  second: (ask) =>
    play(ask, {
      baskets: [
        {
          sailor: 'Kai',
          lines: [
            ['BELL-2', 1],
            ['TAR-1', 10],
          ],
          without: 1,
          given: 80,
        },
        {
          sailor: 'Liv',
          lines: [
            ['ROPE-12', 3],
            ['TAR-1', 1],
            ['LAMP-3', 2],
            ['BELL-2', 1],
          ],
          without: 3,
          given: 1000,
        },
        {
          sailor: 'Mo',
          lines: [
            ['LAMP-3', 4],
            ['ROPE-12', 1],
          ],
          without: 2,
          given: 170,
        },
      ],
      deposits: [5, 12.5, 300],
    }),
};
