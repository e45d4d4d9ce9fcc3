import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Entry {
  readonly id: string;
  readonly type: 'entries';
  readonly attributes: {
    readonly keeper: string;
    readonly text: string;
    readonly wind_force: number;
    readonly state: string;
  };
  readonly links: { readonly self: string };
}

interface Envelope {
  readonly data: Entry;
  readonly links?: { readonly self: string };
}

/** As a test would that waits for a job. */
const ASKED_EVERY_MS = 15;
const KEEPERS: Readonly<Record<string, string>> = { 'Basic aWRhOnNrZXJyeQ==': 'ida', 'Basic a2FpOmhvbG0=': 'kai' };

/** Envelopes with attributes and absolute links; basic credentials; ids that are numbers as texts; a state put by itself; a search by POST; an ETag; a job whose Location leads to what it made. */
function createLogbook(): FastifyInstance {
  const app = fastify();
  const entries = new Map<string, Entry>();
  const reports = new Map<string, { readonly asked: number; readonly entries: number }>();
  let next = 901;
  app.addHook('onRequest', async (request, reply) => {
    if (KEEPERS[request.headers.authorization ?? ''] !== undefined) return;
    await reply
      .code(401)
      .header('www-authenticate', 'Basic realm="logbook"')
      .send({ errors: [{ status: '401', title: 'Who are you?' }] });
  });
  const notFound = (id: string) => ({
    errors: [{ status: '404', title: 'Not in the log', detail: `There is no entry ${id}.` }],
  });
  app.post<{ Body: { data: { attributes: { text?: string; wind_force: number } } } }>(
    '/log/entries',
    async (request, reply) => {
      const { text, wind_force } = request.body.data.attributes;
      if (text === undefined)
        return reply
          .code(400)
          .send({ errors: [{ status: '400', title: 'No text', source: { pointer: '/data/attributes/text' } }] });
      const id = String(next++);
      const keeper = KEEPERS[request.headers.authorization ?? ''] ?? '';
      const self = `http://${request.headers.host}/log/entries/${id}`;
      const entry: Entry = {
        id,
        type: 'entries',
        attributes: { keeper, text, wind_force, state: 'open' },
        links: { self },
      };
      entries.set(id, entry);
      return reply.code(201).header('location', self).header('etag', `"${id}-open"`).send({ data: entry });
    },
  );
  app.get<{ Querystring: Record<string, string> }>('/log/entries', async (request) => {
    const state = request.query['filter[state]'];
    const size = Number(request.query['page[size]'] ?? 10);
    const number = Number(request.query['page[number]'] ?? 1);
    const found = [...entries.values()].filter(({ attributes }) => state === undefined || attributes.state === state);
    return { data: found.slice((number - 1) * size, number * size), meta: { total: found.length, page: number } };
  });
  app.get<{ Params: { id: string } }>('/log/entries/:id', async (request, reply) => {
    const entry = entries.get(request.params.id);
    if (entry === undefined) return reply.code(404).send(notFound(request.params.id));
    return reply.header('etag', `"${entry.id}-${entry.attributes.state}"`).send({ data: entry });
  });
  app.put<{ Params: { id: string }; Body: { state: string } }>('/log/entries/:id/state', async (request, reply) => {
    const entry = entries.get(request.params.id);
    if (entry === undefined) return reply.code(404).send(notFound(request.params.id));
    const changed = { ...entry, attributes: { ...entry.attributes, state: request.body.state } };
    entries.set(entry.id, changed);
    return { data: changed };
  });
  app.patch<{ Params: { id: string }; Body: { data: { attributes: Partial<Entry['attributes']> } } }>(
    '/log/entries/:id',
    async (request, reply) => {
      const entry = entries.get(request.params.id);
      if (entry === undefined) return reply.code(404).send(notFound(request.params.id));
      const changed = { ...entry, attributes: { ...entry.attributes, ...request.body.data.attributes } };
      entries.set(entry.id, changed);
      return { data: changed };
    },
  );
  app.delete<{ Params: { id: string } }>('/log/entries/:id', async (request, reply) => {
    if (!entries.delete(request.params.id)) return reply.code(404).send(notFound(request.params.id));
    return reply.code(204).send();
  });
  app.post<{ Body: { containing: string } }>('/log/search', async (request) => {
    const { containing } = request.body;
    const found = [...entries.values()].filter(({ attributes }) => attributes.text.includes(containing));
    return { data: found, meta: { total: found.length } };
  });
  app.post('/log/reports', async (_request, reply) => {
    const id = `rep-${reports.size + 1}`;
    reports.set(id, { asked: 0, entries: entries.size });
    return reply.code(202).header('location', `/log/reports/${id}`).send({ id, state: 'queued' });
  });
  app.get<{ Params: { id: string } }>('/log/reports/:id', async (request, reply) => {
    const { id } = request.params;
    const report = reports.get(id);
    if (report === undefined) return reply.code(404).send(notFound(id));
    const asked = report.asked + 1;
    reports.set(id, { ...report, asked });
    return asked < 3 ? { id, state: 'working' } : { id, state: 'done', entries: report.entries };
  });
  return app;
}

interface Watch {
  readonly credentials: string;
  readonly entries: readonly { readonly text: string; readonly wind_force: number }[];
  readonly word: string;
  readonly closed: number;
  readonly mended: { readonly at: number; readonly text: string };
  readonly struck: number;
}

async function play(plain: Ask, watch: Watch): Promise<void> {
  expectThat((await plain('GET', '/log/entries')).status === 401, 'nobody without credentials');
  const headers = { authorization: watch.credentials };
  const ask: Ask = (method, path, asked) => plain(method, path, { ...asked, headers });
  const list = async (more = '') =>
    (await ask('GET', `/log/entries${more}`)).json as { data: Entry[]; meta: { total: number; page: number } };
  expectThat((await list()).meta.total === 0, 'an empty log');
  const made: Entry[] = [];
  const texts = watch.entries.map(({ text }) => text);
  for (const attributes of watch.entries) {
    const answer = await ask('POST', '/log/entries', { json: { data: { attributes } } });
    const { data } = answer.json as Envelope;
    expectThat(data.attributes.text === attributes.text && data.attributes.state === 'open', 'an entry as sent');
    expectThat(
      data.attributes.wind_force === attributes.wind_force && data.links.self.endsWith(`/log/entries/${data.id}`),
      'its link',
    );
    expectThat(answer.headers.get('location')?.endsWith(data.id) === true, 'its location');
    made.push(data);
  }
  const refused = await ask('POST', '/log/entries', { json: { data: { attributes: { wind_force: 3 } } } });
  expectThat(
    (refused.json as { errors: { title: string }[] }).errors[0]?.title === 'No text',
    'no entry without a text',
  );
  const at = (i: number): Entry => made[i] as Entry;
  const closed = await ask('PUT', `/log/entries/${at(watch.closed).id}/state`, { json: { state: 'closed' } });
  expectThat((closed.json as Envelope).data.attributes.state === 'closed', 'it closed');
  const read = await ask('GET', `/log/entries/${at(watch.closed).id}`);
  expectThat((read.json as Envelope).data.attributes.state === 'closed', 'it still closed');
  expectThat((await list('?filter[state]=open')).meta.total === made.length - 1, 'the open ones');
  expectThat((await list('?filter[state]=closed')).data[0]?.id === at(watch.closed).id, 'the closed one');
  const page = await list('?page[size]=2&page[number]=2');
  expectThat(page.meta.page === 2 && page.data.length === Math.min(2, made.length - 2), 'the second page');
  expectThat(page.data[0]?.id === at(2).id, 'from the third on');
  const { mended } = watch;
  const patched = await ask('PATCH', `/log/entries/${at(mended.at).id}`, {
    json: { data: { attributes: { text: mended.text } } },
  });
  expectThat((patched.json as Envelope).data.attributes.text === mended.text, 'it mended');
  expectThat(
    (patched.json as Envelope).data.attributes.wind_force === at(mended.at).attributes.wind_force,
    'the rest kept',
  );
  texts[mended.at] = mended.text;
  const search = (await ask('POST', '/log/search', { json: { containing: watch.word } })).json as { data: Entry[] };
  expectThat(search.data.length === texts.filter((text) => text.includes(watch.word)).length, 'what was searched for');
  const report = await ask('POST', '/log/reports', { json: {} });
  const location = report.headers.get('location') ?? '';
  let last: { state: string; entries?: number } = { state: 'queued' };
  for (let asked = 0; last.state !== 'done' && asked < 20; asked++) {
    await new Promise((resolve) => setTimeout(resolve, ASKED_EVERY_MS));

    last = (await ask('GET', location)).json as typeof last;
  }
  expectThat(last.state === 'done', 'a report in the end');
  const { id } = at(watch.struck);
  expectThat((await ask('DELETE', `/log/entries/${id}`)).status === 204, 'one struck');
  const gone = await ask('GET', `/log/entries/${id}`);
  expectThat(
    (gone.json as { errors: { detail: string }[] }).errors[0]?.detail === `There is no entry ${id}.`,
    'it gone',
  );
  expectThat(
    (await list()).data.every((entry) => entry.id !== id),
    'it not listed',
  );
}

export const logbook: World = {
  habits:
    'envelopes with attributes and links, basic credentials, numbers as texts, a search by POST, a state put by itself',
  create: createLogbook,
  first: (ask) =>
    play(ask, {
      credentials: 'Basic aWRhOnNrZXJyeQ==',
      entries: [
        { text: 'Fog from the west', wind_force: 3 },
        { text: 'Lamp trimmed', wind_force: 4 },
        { text: 'Fog lifted', wind_force: 2 },
      ],
      word: 'Fog',
      closed: 1,
      mended: { at: 2, text: 'Fog lifted at noon' },
      struck: 0,
    }),
  similar: (ask) =>
    play(ask, {
      credentials: 'Basic aWRhOnNrZXJyeQ==',
      entries: [
        { text: 'Swell from the north', wind_force: 5 },
        { text: 'Oil delivered', wind_force: 1 },
        { text: 'Swell going down', wind_force: 6 },
      ],
      word: 'Swell',
      closed: 1,
      mended: { at: 2, text: 'Swell gone' },
      struck: 0,
    }),
  second: (ask) =>
    play(ask, {
      credentials: 'Basic aWRhOnNrZXJyeQ==',
      entries: [
        { text: 'Snow at dawn', wind_force: 7 },
        { text: 'Glass polished', wind_force: 4 },
        { text: 'Ship at anchor', wind_force: 2 },
        { text: 'Snow again', wind_force: 8 },
      ],
      word: 'Snow',
      closed: 3,
      mended: { at: 1, text: 'Glass polished twice' },
      struck: 2,
    }),
};
