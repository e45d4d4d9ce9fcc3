import { randomBytes } from 'node:crypto';
import { type Answered, type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance, type FastifyRequest } from 'fastify';
import type { World } from './world.js';

interface Letter {
  readonly no: number;
  readonly text: string;
}

/** How callers show who they are. */
type Credential = 'bearer' | 'cookie';

/** Several callers at once: each has letters of their own, numbered anew, and all read the same notices. */
function createLetterRoom(by: Credential): FastifyInstance {
  const app = fastify();
  const letters = new Map<string, Letter[]>();
  const counts = new Map<string, number>();
  const notices: { id: string; text: string; author: string }[] = [];
  const sessions = new Map<string, string>();
  const tokenOf = ({ headers }: FastifyRequest): string =>
    by === 'bearer' ? (headers.authorization ?? '').slice(7) : (/sid=(\w+)/.exec(headers.cookie ?? '')?.[1] ?? '');
  const who = (request: FastifyRequest): string => sessions.get(tokenOf(request)) ?? '';
  app.addHook('preHandler', async (request, reply) => {
    if (request.url !== '/login' && who(request) === '') await reply.code(401).send({ error: 'who are you?' });
  });
  app.post<{ Body: { name: string; password: string } }>('/login', async ({ body }, reply) => {
    const token = randomBytes(12).toString('hex');
    sessions.set(token, body.name);
    if (by === 'bearer') return { token, welcome: body.name };
    return reply.header('set-cookie', `sid=${token}; Path=/; HttpOnly`).send({ welcome: body.name });
  });
  app.post('/logout', async (request, reply) => {
    sessions.delete(tokenOf(request));
    return reply.code(204).send();
  });
  app.get('/me', async (request) => ({ name: who(request), letters: letters.get(who(request))?.length ?? 0 }));
  app.get('/letters', async (request) => letters.get(who(request)) ?? []);
  app.post<{ Body: { text: string } }>('/letters', async (request, reply) => {
    const name = who(request);
    const no = (counts.get(name) ?? 0) + 1;
    counts.set(name, no);
    const letter = { no, text: request.body.text };
    letters.set(name, [...(letters.get(name) ?? []), letter]);
    return reply.code(201).send(letter);
  });
  app.get<{ Params: { no: string } }>('/letters/:no', async (request, reply) => {
    const letter = letters.get(who(request))?.find(({ no }) => no === Number(request.params.no));
    return letter ?? reply.code(404).send({ error: `no letter ${request.params.no}` });
  });
  app.delete<{ Params: { no: string } }>('/letters/:no', async (request, reply) => {
    const own = letters.get(who(request)) ?? [];
    letters.set(
      who(request),
      own.filter(({ no }) => no !== Number(request.params.no)),
    );
    return reply.code(204).send();
  });
  app.get('/notices', async () => notices);
  app.post<{ Body: { text: string } }>('/notices', async (request, reply) => {
    const notice = { id: randomBytes(6).toString('hex'), text: request.body.text, author: who(request) };
    notices.push(notice);
    return reply.code(201).send(notice);
  });
  return app;
}

/** What each caller writes, in turns. */
interface Day {
  readonly letters: readonly (readonly [who: string, text: string])[];
  readonly notice: readonly [who: string, text: string];
  readonly gone: readonly [who: string, no: number];
  readonly leaves: string;
}

async function play(ask: Ask, by: Credential, { letters, notice, gone, leaves }: Day): Promise<void> {
  expectThat((await ask('GET', '/letters')).status === 401, 'nobody without a login');
  const names = [...new Set(letters.map(([name]) => name))];
  const own = new Map<string, Readonly<Record<string, string>>>();
  for (const name of names)
    own.set(name, credentialOf(await ask('POST', '/login', { json: { name, password: 'x' } }), by));
  const as = (name: string) => ({ headers: own.get(name) ?? {} });
  const counts = new Map<string, number>();
  for (const [name, text] of letters) {
    const letter = (await ask('POST', '/letters', { json: { text }, ...as(name) })).json as Letter;
    counts.set(name, (counts.get(name) ?? 0) + 1);
    expectThat(letter.no === counts.get(name) && letter.text === text, `letter ${counts.get(name)} of ${name}`);
  }
  for (const name of names) {
    const me = (await ask('GET', '/me', as(name))).json as { name: string };
    expectThat(me.name === name, `${name}, not ${me.name}`);
    const texts = ((await ask('GET', '/letters', as(name))).json as Letter[]).map(({ text }) => text);
    expectThat(
      texts.join() === letters.flatMap((item) => (item[0] === name ? [item[1]] : [])).join(),
      `those of ${name}`,
    );
    const first = (await ask('GET', '/letters/1', as(name))).json as Letter;
    expectThat(first.text === texts[0], `the first of ${name}`);
  }
  await ask('DELETE', `/letters/${gone[1]}`, as(gone[0]));
  expectThat((await ask('GET', `/letters/${gone[1]}`, as(gone[0]))).status === 404, 'it gone');
  for (const name of names) {
    const left = ((await ask('GET', '/letters', as(name))).json as Letter[]).map(({ no }) => no);
    expectThat(left.includes(gone[1]) === (name !== gone[0]), `the letters left of ${name}`);
  }
  const posted = (await ask('POST', '/notices', { json: { text: notice[1] }, ...as(notice[0]) })).json as {
    author: string;
  };
  expectThat(posted.author === notice[0], `a notice by ${notice[0]}`);
  for (const name of names) {
    const all = (await ask('GET', '/notices', as(name))).json as { author: string; text: string }[];
    expectThat(all.length === 1 && all[0]?.text === notice[1] && all[0].author === notice[0], 'one notice for all');
  }
  expectThat((await ask('POST', '/logout', as(leaves))).status === 204, 'out');
  for (const name of names)
    expectThat((await ask('GET', '/me', as(name))).status === (name === leaves ? 401 : 200), `${name} in or out`);
}

function credentialOf(login: Answered, by: Credential): Readonly<Record<string, string>> {
  if (by === 'cookie') return { cookie: (login.headers.get('set-cookie') ?? '').split(';')[0] ?? '' };
  return { authorization: `Bearer ${(login.json as { token: string }).token}` };
}

function createWorld(by: Credential): World {
  return {
    habits: `by ${by}: several callers at once, each with things of their own`,
    create: () => createLetterRoom(by),
    first: (ask) =>
      play(ask, by, {
        letters: [
          ['Ida', 'dear Tom'],
          ['Tom', 'dear Ida'],
          ['Tom', 'dear all'],
        ],
        notice: ['Ida', 'tea at four'],
        gone: ['Tom', 1],
        leaves: 'Ida',
      }),
    second: (ask) =>
      play(ask, by, {
        letters: [
          ['Una', 'dear Ben'],
          ['Ben', 'dear Una'],
          ['Rob', 'dear both'],
          ['Una', 'dear Rob'],
        ],
        notice: ['Rob', 'a lost glove'],
        gone: ['Ben', 1],
        leaves: 'Una',
      }),
    similar: (ask) =>
      play(ask, by, {
        letters: [
          ['Eve', 'dear Sam'],
          ['Sam', 'dear Eve'],
          ['Sam', 'dear me'],
        ],
        notice: ['Eve', 'coal has come'],
        gone: ['Sam', 1],
        leaves: 'Eve',
      }),
  };
}

export const letterRoom = createWorld('bearer');
export const cookieRoom = createWorld('cookie');
