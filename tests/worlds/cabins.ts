import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Cabin {
  readonly no: number;
  readonly guest: string;
}

/** Cabins numbered anew on each deck, which only the query names. */
function createCabins(): FastifyInstance {
  const app = fastify();
  const decks = new Map<string, Cabin[]>();
  app.post<{ Querystring: { deck: string }; Body: { guest: string } }>('/cabins', async ({ query, body }, reply) => {
    const own = decks.get(query.deck) ?? [];
    const cabin = { no: own.length + 1, guest: body.guest };
    decks.set(query.deck, [...own, cabin]);
    return reply.code(201).send(cabin);
  });
  app.get<{ Querystring: { deck: string }; Params: { no: string } }>(
    '/cabins/:no',
    async ({ query, params }, reply) => {
      const cabin = decks.get(query.deck)?.find(({ no }) => no === Number(params.no));
      return cabin ?? reply.code(404).send({ message: `no cabin ${params.no}` });
    },
  );
  app.put<{ Querystring: { deck: string }; Params: { no: string }; Body: { guest: string } }>(
    '/cabins/:no',
    async ({ query, params, body }) => {
      const changed = { no: Number(params.no), guest: body.guest };
      decks.set(
        query.deck,
        (decks.get(query.deck) ?? []).map((cabin) => (cabin.no === changed.no ? changed : cabin)),
      );
      return changed;
    },
  );
  return app;
}

/** Drafts answer this one's own session: of other sessions they would have to know that the query names the owner. */
export const cabins: Pick<World, 'habits' | 'create' | 'first'> = {
  habits: 'things numbered anew within what the query names',
  create: createCabins,
  first: async (ask: Ask) => {
    const guests = { upper: ['Ida', 'Tom'], lower: ['Una', 'Rob'] };
    for (const [deck, names] of Object.entries(guests))
      for (const guest of names) await ask('POST', `/cabins?deck=${deck}`, { json: { guest } });
    const guestOf = async (deck: string, no: number): Promise<string> =>
      ((await ask('GET', `/cabins/${no}?deck=${deck}`)).json as Cabin).guest;
    expectThat((await guestOf('upper', 1)) === 'Ida' && (await guestOf('lower', 1)) === 'Una', 'each deck has its own');
    await ask('PUT', '/cabins/1?deck=upper', { json: { guest: 'Ben' } });
    expectThat((await guestOf('upper', 1)) === 'Ben' && (await guestOf('lower', 1)) === 'Una', 'only one moved');
    expectThat((await guestOf('upper', 2)) === 'Tom' && (await guestOf('lower', 2)) === 'Rob', 'the others stay');
  },
};
