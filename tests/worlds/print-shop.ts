import { randomBytes } from 'node:crypto';
import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Job {
  readonly jobNo: string;
  readonly title: string;
  readonly copies: number;
  readonly status: 'waiting' | 'printed';
  readonly submitted_at: number;
  readonly paper: string;
}

const PRINTING_MS = 150;

/** Print jobs that become ready by themselves: numbers such as PJ-1204, everything in `data`, a key in a header, moments as numbers, DELETE that answers. */
function createPrintShop(): FastifyInstance {
  const app = fastify();
  const jobs = new Map<string, Job>();
  const keys = new Set<string>();
  let last = 1203;
  const view = (job: Job): Job => ({
    ...job,
    status: Date.now() - job.submitted_at < PRINTING_MS ? 'waiting' : 'printed',
  });
  app.addHook('onRequest', async (request, reply) => {
    if (request.url === '/sessions' || keys.has(String(request.headers['x-shop-key']))) return;
    await reply.code(401).send({ errors: [{ code: 'key_needed' }] });
  });
  app.post<{ Body: { shop: string } }>('/sessions', async (request, reply) => {
    const key = randomBytes(16).toString('hex');
    keys.add(key);
    return reply.code(201).send({ data: { key, shop: request.body.shop } });
  });
  app.post<{ Body: { title?: string; copies?: number; paper?: string } }>('/jobs', async (request, reply) => {
    const { title, copies = 1, paper = 'plain' } = request.body;
    if (title === undefined) return reply.code(422).send({ errors: [{ code: 'title_missing' }] });
    const jobNo = `PJ-${++last}`;
    const job: Job = { jobNo, title, copies, status: 'waiting', submitted_at: Date.now(), paper };
    jobs.set(jobNo, job);
    return reply.code(202).send({ data: job });
  });
  app.get<{ Params: { jobNo: string } }>('/jobs/:jobNo', async (request, reply) => {
    const job = jobs.get(request.params.jobNo);
    return job === undefined ? reply.code(404).send({ errors: [{ code: 'no_such_job' }] }) : { data: view(job) };
  });
  app.get('/jobs', async () => ({ data: [...jobs.values()].map(view).reverse(), meta: { count: jobs.size } }));
  app.delete<{ Params: { jobNo: string } }>('/jobs/:jobNo', async (request, reply) => {
    const job = jobs.get(request.params.jobNo);
    if (job === undefined) return reply.code(404).send({ errors: [{ code: 'no_such_job' }] });
    jobs.delete(job.jobNo);
    return { data: { deleted: job.jobNo } };
  });
  return app;
}

type Wanted = readonly { readonly title: string; readonly copies?: number; readonly paper?: string }[];

async function play(ask: Ask, shop: string, plan: Wanted): Promise<void> {
  expectThat((await ask('GET', '/jobs')).status === 401, 'nothing without a key');
  const session = (await ask('POST', '/sessions', { json: { shop } })).json as { data: { key: string; shop: string } };
  expectThat(session.data.shop === shop, 'a session');
  const headers = { 'x-shop-key': session.data.key };
  const made: string[] = [];
  for (const json of plan) {
    const answer = await ask('POST', '/jobs', { json, headers });
    const { data } = answer.json as { data: Job };
    expectThat(answer.status === 202 && data.title === json.title && data.copies === (json.copies ?? 1), 'a job');
    expectThat(data.paper === (json.paper ?? 'plain') && data.status === 'waiting', 'its paper');
    made.push(data.jobNo);
    const printed = await waitFor(ask, headers, data.jobNo);
    expectThat(printed.title === json.title, 'the job printed');
  }
  expectThat((await ask('POST', '/jobs', { json: { copies: 3 }, headers })).status === 422, 'no job without a title');
  const listed = (await ask('GET', '/jobs', { headers })).json as { data: Job[]; meta: { count: number } };
  expectThat(listed.meta.count === plan.length, 'a count');
  expectThat(listed.data.map(({ jobNo }) => jobNo).join() === [...made].reverse().join(), 'the newest first');
  const [first = ''] = made;
  const gone = (await ask('DELETE', `/jobs/${first}`, { headers })).json as { data: { deleted: string } };
  expectThat(gone.data.deleted === first, 'the job deleted');
  expectThat((await ask('GET', `/jobs/${first}`, { headers })).status === 404, 'it gone');
}

async function waitFor(ask: Ask, headers: Readonly<Record<string, string>>, jobNo: string): Promise<Job> {
  for (let tries = 0; tries < 50; tries++) {
    const { data } = (await ask('GET', `/jobs/${jobNo}`, { headers })).json as { data: Job };
    if (data.status === 'printed') return data;
    await new Promise((resolve) => setTimeout(resolve, PRINTING_MS / 3));
  }
  throw new Error('the session expected the job to be printed');
}

export const printShop: World = {
  habits:
    'jobs that become ready by themselves, numbered codes, an envelope, a key in a header, defaults, 200 to DELETE',
  create: createPrintShop,
  first: (ask) =>
    play(ask, 'Quay Street', [
      { title: 'Tide table', copies: 3 },
      { title: 'Menu', paper: 'card' },
    ]),
  similar: (ask) =>
    play(ask, 'Mill Lane', [
      { title: 'Poster', copies: 9 },
      { title: 'Ticket', paper: 'foil' },
    ]),
  second: (ask) =>
    play(ask, 'Hill Road', [
      { title: 'Chart', paper: 'linen' },
      { title: 'Notice', copies: 40 },
      { title: 'Letter', copies: 2, paper: 'laid' },
    ]),
};
