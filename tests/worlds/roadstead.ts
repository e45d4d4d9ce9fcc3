import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Visit {
  readonly no: number;
  readonly ship: string;
  readonly purpose: string;
}

const PORTS = [
  { code: 'SKY', name: 'Skerry', depth: 8.5 },
  { code: 'HOL', name: 'Holm', depth: 11 },
];

/** Things numbered anew within each parent: two parents have a number 1 each. */
function createRoadstead(): FastifyInstance {
  const app = fastify();
  const visits = new Map(PORTS.map(({ code }) => [code, [] as Visit[]]));
  const counts = new Map<string, number>();
  app.get('/ports', async () => PORTS);
  app.get<{ Params: { code: string } }>('/ports/:code', async (request, reply) => {
    const port = PORTS.find(({ code }) => code === request.params.code);
    return port ?? reply.code(404).send({ message: `no port ${request.params.code}` });
  });
  app.get<{ Params: { code: string } }>(
    '/ports/:code/visits',
    async (request) => visits.get(request.params.code) ?? [],
  );
  app.post<{ Params: { code: string }; Body: { ship: string; purpose: string } }>(
    '/ports/:code/visits',
    async (request, reply) => {
      const { code } = request.params;
      const no = (counts.get(code) ?? 0) + 1;
      counts.set(code, no);
      const visit: Visit = { no, ...request.body };
      visits.set(code, [...(visits.get(code) ?? []), visit]);
      return reply.code(201).send(visit);
    },
  );
  app.get<{ Params: { code: string; no: string } }>('/ports/:code/visits/:no', async (request, reply) => {
    const { code, no } = request.params;
    const visit = visits.get(code)?.find((own) => own.no === Number(no));
    return visit ?? reply.code(404).send({ message: `${code} has no visit ${no}` });
  });
  app.put<{ Params: { code: string; no: string }; Body: { ship: string; purpose: string } }>(
    '/ports/:code/visits/:no',
    async (request, reply) => {
      const { code, no } = request.params;
      const own = visits.get(code) ?? [];
      if (!own.some((visit) => visit.no === Number(no)))
        return reply.code(404).send({ message: `${code} has no visit ${no}` });
      const changed = { no: Number(no), ...request.body };
      visits.set(
        code,
        own.map((visit) => (visit.no === changed.no ? changed : visit)),
      );
      return changed;
    },
  );
  app.delete<{ Params: { code: string; no: string } }>('/ports/:code/visits/:no', async (request, reply) => {
    const { code, no } = request.params;
    const own = visits.get(code) ?? [];
    visits.set(
      code,
      own.filter((visit) => visit.no !== Number(no)),
    );
    return reply.code(204).send();
  });
  return app;
}

interface Day {
  readonly ships: Readonly<Record<string, readonly (readonly [ship: string, purpose: string])[]>>;
  readonly mended: readonly [code: string, no: number, purpose: string];
  readonly gone: readonly [code: string, no: number];
}

async function play(ask: Ask, { ships, mended, gone }: Day): Promise<void> {
  const ports = (await ask('GET', '/ports')).json as { code: string }[];
  expectThat(ports.length === 2, 'two ports');
  for (const [code, own] of Object.entries(ships)) {
    for (const [i, [ship, purpose]] of own.entries()) {
      const visit = (await ask('POST', `/ports/${code}/visits`, { json: { ship, purpose } })).json as Visit;
      expectThat(visit.no === i + 1 && visit.ship === ship, `visit ${i + 1} of ${code}`);
    }
  }
  for (const [code, own] of Object.entries(ships)) {
    const list = (await ask('GET', `/ports/${code}/visits`)).json as Visit[];
    expectThat(list.map(({ ship }) => ship).join() === own.map(([ship]) => ship).join(), `the visits of ${code}`);
    const first = (await ask('GET', `/ports/${code}/visits/1`)).json as Visit;
    expectThat(first.ship === own[0]?.[0], `the first visit of ${code}`);
  }
  const [code, no, purpose] = mended;
  const ship = ships[code]?.[no - 1]?.[0] ?? '';
  const put = (await ask('PUT', `/ports/${code}/visits/${no}`, { json: { ship, purpose } })).json as Visit;
  expectThat(put.purpose === purpose && put.no === no, 'it replaced');
  expectThat(((await ask('GET', `/ports/${code}/visits/${no}`)).json as Visit).purpose === purpose, 'it kept');
  const path = `/ports/${gone[0]}/visits/${gone[1]}`;
  expectThat((await ask('DELETE', path)).status === 204, 'it struck');
  const missing = await ask('GET', path);
  expectThat((missing.json as { message: string }).message === `${gone[0]} has no visit ${gone[1]}`, 'it gone');
  const left = (await ask('GET', `/ports/${gone[0]}/visits`)).json as Visit[];
  expectThat(
    left.every((visit) => visit.no !== gone[1]),
    'it not listed',
  );
  const other = ports.find((port) => port.code !== gone[0])?.code ?? '';
  expectThat((await ask('GET', `/ports/${other}/visits/${gone[1]}`)).status === 200, 'that of the other port is there');
}

export const roadstead: World = {
  habits: 'things numbered anew within each parent',
  create: createRoadstead,
  first: (ask) =>
    play(ask, {
      ships: {
        SKY: [
          ['Petrel', 'coal'],
          ['Sula', 'mail'],
        ],
        HOL: [
          ['Anna Grey', 'timber'],
          ['Tern', 'salt'],
        ],
      },
      mended: ['SKY', 2, 'passengers'],
      gone: ['HOL', 1],
    }),
  second: (ask) =>
    play(ask, {
      ships: {
        HOL: [
          ['Gannet', 'hay'],
          ['Fulmar', 'coal'],
          ['Puffin', 'peat'],
        ],
        SKY: [
          ['Skua', 'wool'],
          ['Anna Grey', 'slate'],
        ],
      },
      mended: ['HOL', 1, 'repairs'],
      gone: ['SKY', 2],
    }),
  similar: (ask) =>
    play(ask, {
      ships: {
        SKY: [
          ['Gannet', 'hay'],
          ['Fulmar', 'wool'],
        ],
        HOL: [
          ['Skua', 'slate'],
          ['Puffin', 'peat'],
        ],
      },
      mended: ['SKY', 1, 'repairs'],
      gone: ['HOL', 2],
    }),
};
