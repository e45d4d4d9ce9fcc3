import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Star {
  slug: string;
  name: string;
  magnitude: number;
  seen: boolean;
  version: number;
  notes?: string;
}

/** Stars named by their observers: keys chosen by the caller, versions that count up, short views in lists, sorting and pages, PATCH without a body. */
function createObservatory(): FastifyInstance {
  const app = fastify();
  const stars = new Map<string, Star>();
  app.put<{ Params: { slug: string }; Body: { name: string; magnitude: number } }>(
    '/stars/:slug',
    async (request, reply) => {
      const { slug } = request.params;
      if (stars.has(slug)) return reply.code(409).send({ message: `${slug} is named already` });
      const star = { slug, ...request.body, seen: false, version: 1 };
      stars.set(slug, star);
      return reply.code(201).header('location', `/stars/${slug}`).send(star);
    },
  );
  app.get<{ Querystring: { limit?: string; offset?: string; seen?: string } }>('/stars', async (request) => {
    const { limit = '2', offset = '0', seen } = request.query;
    const all = [...stars.values()].filter((star) => seen === undefined || String(star.seen) === seen);
    all.sort((a, b) => (a.name < b.name ? -1 : 1));
    const items = all.slice(Number(offset), Number(offset) + Number(limit));
    return { total: all.length, items: items.map(({ slug, name, seen: own }) => ({ slug, name, seen: own })) };
  });
  app.get<{ Params: { slug: string } }>('/stars/:slug', async (request, reply) => {
    const star = stars.get(request.params.slug);
    return star ?? reply.code(404).send({ message: `${request.params.slug} is not known` });
  });
  app.patch<{ Params: { slug: string }; Body: Partial<Star> }>('/stars/:slug', async (request, reply) => {
    const star = stars.get(request.params.slug);
    if (star === undefined) return reply.code(404).send({ message: `${request.params.slug} is not known` });
    stars.set(star.slug, { ...star, ...request.body, version: star.version + 1 });
    return reply.code(204).send();
  });
  app.post<{ Params: { slug: string } }>('/stars/:slug/sightings', async (request, reply) => {
    const star = stars.get(request.params.slug);
    if (star === undefined) return reply.code(404).send({ message: `${request.params.slug} is not known` });
    star.seen = true;
    return { ok: true };
  });
  return app;
}

type Sky = readonly {
  readonly slug: string;
  readonly name: string;
  readonly magnitude: number;
  readonly note: string;
}[];

async function play(ask: Ask, sky: Sky): Promise<void> {
  for (const { slug, name, magnitude } of sky) {
    const put = await ask('PUT', `/stars/${slug}`, { json: { name, magnitude } });
    expectThat(put.status === 201 && (put.json as Star).version === 1, 'a star');
    expectThat(put.headers.get('location') === `/stars/${slug}`, 'its address');
  }
  const [first] = sky as [Sky[number], ...Sky[number][]];
  const twice = await ask('PUT', `/stars/${first.slug}`, { json: { name: first.name, magnitude: 1 } });
  expectThat(
    twice.status === 409 && (twice.json as { message: string }).message === `${first.slug} is named already`,
    'a refusal',
  );
  const page = async (query: string): Promise<{ total: number; items: Star[] }> =>
    (await ask('GET', `/stars${query}`)).json;
  const names = sky.map(({ name }) => name).sort();
  const whole = await page('?limit=50');
  expectThat(whole.total === sky.length && whole.items.map(({ name }) => name).join() === names.join(), 'all by name');
  expectThat((await page('')).items.map(({ name }) => name).join() === names.slice(0, 2).join(), 'a page of two');
  expectThat((await page('?offset=1&limit=1')).items[0]?.name === names[1], 'the second');
  for (const { slug, note } of sky) {
    expectThat((await ask('PATCH', `/stars/${slug}`, { json: { notes: note } })).status === 204, 'a note taken');
    const star = (await ask('GET', `/stars/${slug}`)).json as Star;
    expectThat(star.notes === note && star.version === 2 && !star.seen, 'the note and a new version');
  }
  expectThat(((await ask('POST', `/stars/${first.slug}/sightings`)).json as { ok: boolean }).ok, 'a sighting');
  expectThat(((await ask('GET', `/stars/${first.slug}`)).json as Star).seen, 'the star seen');
  const seen = await page('?seen=true&limit=50');
  expectThat(seen.total === 1 && seen.items[0]?.slug === first.slug, 'one star seen');
  const missing = await ask('GET', '/stars/nowhere-7');
  expectThat(
    missing.status === 404 && (missing.json as { message: string }).message === 'nowhere-7 is not known',
    'no such star',
  );
}

export const observatory: World = {
  habits: 'keys chosen by the caller, versions that count, short views, order by name, pages, PATCH without a body',
  create: createObservatory,
  first: (ask) =>
    play(ask, [
      { slug: 'red-lamp', name: 'Red Lamp', magnitude: 2.5, note: 'flickers' },
      { slug: 'anchor', name: 'Anchor', magnitude: 3.1, note: 'low in the west' },
      { slug: 'old-nan', name: 'Old Nan', magnitude: 4, note: 'faint' },
    ]),
  similar: (ask) =>
    play(ask, [
      { slug: 'north-eye', name: 'North Eye', magnitude: 1.5, note: 'steady' },
      { slug: 'buoy', name: 'Buoy', magnitude: 3.3, note: 'swings' },
      { slug: 'far-light', name: 'Far Light', magnitude: 5, note: 'rare' },
    ]),
  second: (ask) =>
    play(ask, [
      { slug: 'kite', name: 'Kite', magnitude: 0.4, note: 'bright' },
      { slug: 'thimble', name: 'Thimble', magnitude: 2.2, note: 'blue' },
      { slug: 'cinder', name: 'Cinder', magnitude: 6.1, note: 'needs a glass' },
      { slug: 'barley', name: 'Barley', magnitude: 3.9, note: 'double' },
    ]),
};
