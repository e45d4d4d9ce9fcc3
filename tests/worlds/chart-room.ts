import { createHash, randomUUID } from 'node:crypto';
import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Chart {
  readonly id: string;
  readonly title: string;
  readonly status: 'draft' | 'checked' | 'printed';
  readonly scale: { readonly x: number; readonly unit: string };
  readonly version: number;
}

const NEXT: Readonly<Record<string, string>> = { draft: 'checked', checked: 'printed' };

/** Entity tags and conditional calls, pages by a cursor, deep merges, steps that are refused out of order, calls that may be repeated. */
function createChartRoom(): FastifyInstance {
  const app = fastify();
  const charts = new Map<string, Chart>();
  const repeated = new Map<string, Chart>();
  const tagOf = (chart: Chart): string =>
    `"${createHash('sha1').update(JSON.stringify(chart)).digest('hex').slice(0, 16)}"`;
  app.post<{ Body: { title: string; scale: Chart['scale'] } }>('/charts', async ({ body, headers }, reply) => {
    const key = String(headers['idempotency-key'] ?? '');
    const before = repeated.get(key);
    if (before !== undefined) return reply.code(201).header('etag', tagOf(before)).send(before);
    const chart: Chart = { id: randomUUID(), title: body.title, status: 'draft', scale: body.scale, version: 1 };
    charts.set(chart.id, chart);
    repeated.set(key, chart);
    return reply.code(201).header('etag', tagOf(chart)).send(chart);
  });
  app.get<{ Params: { id: string } }>('/charts/:id', async ({ params, headers }, reply) => {
    const chart = charts.get(params.id);
    if (chart === undefined) return reply.code(404).send({ error: 'not_found' });
    if (headers['if-none-match'] === tagOf(chart)) return reply.code(304).header('etag', tagOf(chart)).send();
    return reply.header('etag', tagOf(chart)).send(chart);
  });
  app.patch<{ Params: { id: string }; Body: { title?: string; scale?: Partial<Chart['scale']> } }>(
    '/charts/:id',
    async ({ params, body, headers }, reply) => {
      const chart = charts.get(params.id);
      if (chart === undefined) return reply.code(404).send({ error: 'not_found' });
      if (headers['if-match'] !== undefined && headers['if-match'] !== tagOf(chart))
        return reply.code(412).send({ error: 'changed_since' });
      const changed: Chart = {
        ...chart,
        ...body,
        scale: { ...chart.scale, ...body.scale },
        version: chart.version + 1,
      };
      charts.set(chart.id, changed);
      return reply.header('etag', tagOf(changed)).send(changed);
    },
  );
  app.post<{ Params: { id: string }; Body: { to: string } }>('/charts/:id/status', async ({ params, body }, reply) => {
    const chart = charts.get(params.id);
    if (chart === undefined) return reply.code(404).send({ error: 'not_found' });
    if (NEXT[chart.status] !== body.to)
      return reply.code(409).send({ error: 'not_now', from: chart.status, to: body.to });
    const changed = { ...chart, status: body.to as Chart['status'], version: chart.version + 1 };
    charts.set(chart.id, changed);
    return changed;
  });
  app.get<{ Querystring: { cursor?: string; limit?: string } }>('/charts', async ({ query }) => {
    const all = [...charts.values()];
    const from = query.cursor === undefined ? 0 : Number(Buffer.from(query.cursor, 'base64url').toString().slice(3));
    const limit = Number(query.limit ?? 2);
    const next = from + limit < all.length ? Buffer.from(`at:${from + limit}`).toString('base64url') : null;
    return { charts: all.slice(from, from + limit), next };
  });
  return app;
}

interface Day {
  readonly titles: readonly string[];
  readonly again: number;
  readonly renamed: readonly [index: number, title: string];
  readonly scaled: readonly [index: number, x: number];
  readonly steps: readonly (readonly [index: number, to: string, holds: boolean])[];
}

async function play(ask: Ask, { titles, again, renamed, scaled, steps }: Day): Promise<void> {
  const made: Chart[] = [];
  for (const [i, title] of titles.entries()) {
    const asked = { json: { title, scale: { x: 1000, unit: 'm' } }, headers: { 'idempotency-key': `k-${title}` } };
    const answer = await ask('POST', '/charts', asked);
    made.push(answer.json as Chart);
    if (i !== again) continue;
    const same = (await ask('POST', '/charts', asked)).json as Chart;
    expectThat(same.id === made[i]?.id, 'the same chart for the same key');
  }
  const idOf = (index: number): string => made[index]?.id ?? '';
  const first = await ask('GET', `/charts/${idOf(renamed[0])}`);
  const tag = first.headers.get('etag') ?? '';
  const unchanged = await ask('GET', `/charts/${idOf(renamed[0])}`, { headers: { 'if-none-match': tag } });
  expectThat(unchanged.status === 304, 'nothing new');
  const patched = await ask('PATCH', `/charts/${idOf(renamed[0])}`, {
    json: { title: renamed[1] },
    headers: { 'if-match': tag },
  });
  expectThat((patched.json as Chart).title === renamed[1] && (patched.json as Chart).version === 2, 'it renamed');
  const late = await ask('PATCH', `/charts/${idOf(renamed[0])}`, {
    json: { title: 'too late' },
    headers: { 'if-match': tag },
  });
  expectThat(late.status === 412, 'not changed by who had not seen it');
  const fresh = await ask('GET', `/charts/${idOf(renamed[0])}`, { headers: { 'if-none-match': tag } });
  expectThat(fresh.status === 200 && (fresh.json as Chart).title === renamed[1], 'something new');
  const scale = (await ask('PATCH', `/charts/${idOf(scaled[0])}`, { json: { scale: { x: scaled[1] } } })).json as Chart;
  expectThat(scale.scale.x === scaled[1] && scale.scale.unit === 'm', 'the unit stays');
  for (const [index, to, holds] of steps) {
    const answer = await ask('POST', `/charts/${idOf(index)}/status`, { json: { to } });
    expectThat(answer.status === (holds ? 200 : 409), `${to} ${holds ? 'now' : 'not now'}`);
  }
  const seen: string[] = [];
  let cursor: string | null = null;
  do {
    const path: string = cursor === null ? '/charts' : `/charts?cursor=${cursor}`;
    const page = (await ask('GET', path)).json as { charts: Chart[]; next: string | null };
    seen.push(...page.charts.map(({ id }) => id));
    cursor = page.next;
  } while (cursor !== null);
  expectThat(seen.join() === made.map(({ id }) => id).join(), 'every chart once, page by page');
}

export const chartRoom: World = {
  habits: 'entity tags, cursors, deep merges, steps in order, repeated calls',
  create: createChartRoom,
  first: (ask) =>
    play(ask, {
      titles: ['Inner sound', 'Outer sound', 'The narrows', 'North holm', 'Skerries'],
      again: 1,
      renamed: [0, 'Inner sound and quays'],
      scaled: [2, 2500],
      steps: [
        [1, 'printed', false],
        [1, 'checked', true],
        [1, 'printed', true],
        [1, 'checked', false],
        [3, 'checked', true],
      ],
    }),
  second: (ask) =>
    play(ask, {
      titles: ['Ness', 'Voe', 'Geo', 'Wick', 'Taing', 'Stack'],
      again: 3,
      renamed: [2, 'Geo and cave'],
      scaled: [4, 5000],
      steps: [
        [0, 'checked', true],
        [5, 'printed', false],
        [0, 'checked', false],
        [0, 'printed', true],
      ],
    }),
  similar: (ask) =>
    play(ask, {
      titles: ['Firth', 'Bay', 'Bight', 'Haven', 'Roads'],
      again: 1,
      renamed: [0, 'The firth'],
      scaled: [2, 750],
      steps: [
        [1, 'printed', false],
        [1, 'checked', true],
        [1, 'printed', true],
        [1, 'checked', false],
        [3, 'checked', true],
      ],
    }),
};
