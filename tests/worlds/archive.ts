import { randomUUID } from 'node:crypto';
import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Box {
  readonly box: number;
  readonly label: string;
  readonly sheets: Map<number, { readonly sheet: number; readonly text: string; readonly read: boolean }>;
  count: number;
}

interface Shelf {
  readonly shelf: number;
  readonly room: string;
  readonly boxes: Map<number, Box>;
  readonly keepers: Map<string, { readonly id: string; readonly name: string }>;
}

type At = { Params: { shelf: string; box: string; sheet: string; keeper: string } };

function createBox(box: number, label: string): Box {
  return { box, label, sheets: new Map(), count: 0 };
}

function createShelves(): Map<number, Shelf> {
  const shelf = (no: number, room: string, labels: readonly string[]): [number, Shelf] => [
    no,
    { shelf: no, room, boxes: new Map(labels.map((label, i) => [i + 1, createBox(i + 1, label)])), keepers: new Map() },
  ];
  return new Map([shelf(1, 'north', ['maps']), shelf(2, 'south', ['letters', 'bills']), shelf(3, 'attic', [])]);
}

/** Boxes numbered within their shelf, sheets within their box, some there from the start; keepers of a shelf that do not say whose they are. */
function createArchive(): FastifyInstance {
  const app = fastify();
  const shelves = createShelves();
  const boxAt = (params: At['Params']) => shelves.get(Number(params.shelf))?.boxes.get(Number(params.box));
  const show = ({ box, label }: Box) => ({ box, label });
  app.get('/shelves', async () => [...shelves.values()].map(({ shelf, room }) => ({ shelf, room })));
  app.get<At>('/shelves/:shelf/boxes', async ({ params }) => {
    const boxes = [...(shelves.get(Number(params.shelf))?.boxes.values() ?? [])].map(show);
    return { boxes, count: boxes.length };
  });
  app.post<At & { Body: { label: string } }>('/shelves/:shelf/boxes', async ({ params, body }, reply) => {
    const boxes = shelves.get(Number(params.shelf))?.boxes ?? new Map<number, Box>();
    const box = createBox(Math.max(0, ...boxes.keys()) + 1, body.label);
    boxes.set(box.box, box);
    return reply.code(201).send(show(box));
  });
  app.get<At>('/shelves/:shelf/boxes/:box', async ({ params }, reply) => {
    const box = boxAt(params);
    return box === undefined
      ? reply.code(404).send({ error: { shelf: params.shelf, missing: params.box } })
      : show(box);
  });
  app.post<At & { Body: { text: string } }>('/shelves/:shelf/boxes/:box/sheets', async ({ params, body }, reply) => {
    const box = boxAt(params);
    if (box === undefined) return reply.code(404).send({ error: { shelf: params.shelf, missing: params.box } });
    box.count++;
    box.sheets.set(box.count, { sheet: box.count, text: body.text, read: false });
    return reply
      .code(201)
      .header('location', `/shelves/${params.shelf}/boxes/${params.box}/sheets/${box.count}`)
      .send({ sheet: box.count, text: body.text, read: false });
  });
  app.get<At>('/shelves/:shelf/boxes/:box/sheets', async ({ params }) => [...(boxAt(params)?.sheets.values() ?? [])]);
  app.patch<At & { Body: { read: boolean } }>(
    '/shelves/:shelf/boxes/:box/sheets/:sheet',
    async ({ params, body }, reply) => {
      const sheets = boxAt(params)?.sheets;
      const sheet = sheets?.get(Number(params.sheet));
      if (sheet === undefined) return reply.code(404).send({ error: { missing: params.sheet } });
      sheets?.set(sheet.sheet, { ...sheet, ...body });
      return { ...sheet, ...body };
    },
  );
  app.delete<At>('/shelves/:shelf/boxes/:box/sheets/:sheet', async ({ params }) => {
    boxAt(params)?.sheets.delete(Number(params.sheet));
    return { gone: true };
  });
  app.get<At>('/shelves/:shelf/keepers', async ({ params }) => [
    ...(shelves.get(Number(params.shelf))?.keepers.values() ?? []),
  ]);
  app.post<At & { Body: { name: string } }>('/shelves/:shelf/keepers', async ({ params, body }, reply) => {
    const keeper = { id: randomUUID(), name: body.name };
    shelves.get(Number(params.shelf))?.keepers.set(keeper.id, keeper);
    return reply.code(201).send(keeper);
  });
  app.delete<At>('/shelves/:shelf/keepers/:keeper', async ({ params }, reply) => {
    shelves.get(Number(params.shelf))?.keepers.delete(params.keeper);
    return reply.code(204).send();
  });
  return app;
}

interface Day {
  readonly boxes: readonly (readonly [shelf: number, label: string, box: number])[];
  readonly sheets: readonly (readonly [shelf: number, box: number, text: string, sheet: number])[];
  readonly read: readonly [shelf: number, box: number, sheet: number];
  readonly gone: readonly [shelf: number, box: number, sheet: number];
  readonly keepers: readonly (readonly [shelf: number, name: string])[];
}

async function play(ask: Ask, { boxes, sheets, read, gone, keepers }: Day): Promise<void> {
  const all = (await ask('GET', '/shelves')).json as { shelf: number }[];
  expectThat(all.length === 3, 'three shelves');
  for (const { shelf } of all) await ask('GET', `/shelves/${shelf}/boxes`);
  for (const [shelf, label, no] of boxes) {
    const box = (await ask('POST', `/shelves/${shelf}/boxes`, { json: { label } })).json as { box: number };
    expectThat(box.box === no, `box ${no} of shelf ${shelf}, not ${box.box}`);
    const found = (await ask('GET', `/shelves/${shelf}/boxes/${no}`)).json as { label: string };
    expectThat(found.label === label, `${label} in box ${no} of shelf ${shelf}`);
  }
  for (const [shelf, box, text, no] of sheets) {
    const path = `/shelves/${shelf}/boxes/${box}/sheets`;
    const sheet = (await ask('POST', path, { json: { text } })).json as { sheet: number };
    expectThat(sheet.sheet === no, `sheet ${no} of box ${box} of shelf ${shelf}, not ${sheet.sheet}`);
  }
  for (const [shelf, box] of new Map(sheets.map((sheet) => [`${sheet[0]}/${sheet[1]}`, sheet])).values()) {
    const texts = (await ask('GET', `/shelves/${shelf}/boxes/${box}/sheets`)).json as { text: string }[];
    const own = sheets.filter((sheet) => sheet[0] === shelf && sheet[1] === box).map(([, , text]) => text);
    expectThat(texts.map(({ text }) => text).join() === own.join(), `the sheets of box ${box} of shelf ${shelf}`);
  }
  const path = `/shelves/${read[0]}/boxes/${read[1]}/sheets`;
  await ask('PATCH', `${path}/${read[2]}`, { json: { read: true } });
  const now = (await ask('GET', path)).json as { sheet: number; read: boolean }[];
  expectThat(
    now.every(({ sheet, read: isRead }) => isRead === (sheet === read[2])),
    'one is read',
  );
  await ask('DELETE', `/shelves/${gone[0]}/boxes/${gone[1]}/sheets/${gone[2]}`);
  const left = (await ask('GET', `/shelves/${gone[0]}/boxes/${gone[1]}/sheets`)).json as { sheet: number }[];
  expectThat(!left.some(({ sheet }) => sheet === gone[2]), 'one is gone');
  expectThat((await ask('GET', `/shelves/1/boxes/9`)).status === 404, 'no box 9');
  const made = new Map<string, string>();
  for (const [shelf, name] of keepers)
    made.set(name, ((await ask('POST', `/shelves/${shelf}/keepers`, { json: { name } })).json as { id: string }).id);
  for (const { shelf } of all) {
    const names = ((await ask('GET', `/shelves/${shelf}/keepers`)).json as { name: string }[]).map(({ name }) => name);
    expectThat(
      names.join() === keepers.flatMap((own) => (own[0] === shelf ? [own[1]] : [])).join(),
      `keepers of ${shelf}`,
    );
  }
  const [[shelf, name] = [0, '']] = keepers;
  await ask('DELETE', `/shelves/${shelf}/keepers/${made.get(name)}`);
  const names = ((await ask('GET', `/shelves/${shelf}/keepers`)).json as { name: string }[]).map((own) => own.name);
  expectThat(!names.includes(name), `${name} is gone`);
}

export const archive: World = {
  habits: 'things numbered within things numbered within others',
  create: createArchive,
  first: (ask) =>
    play(ask, {
      boxes: [
        [2, 'photographs', 3],
        [3, 'songs', 1],
        [1, 'charts', 2],
        [3, 'tales', 2],
      ],
      sheets: [
        [1, 1, 'the sound', 1],
        [1, 1, 'the holm', 2],
        [2, 1, 'dear Ada', 1],
        [3, 1, 'low tide', 1],
        [3, 2, 'the seal', 1],
      ],
      read: [1, 1, 2],
      gone: [3, 1, 1],
      keepers: [
        [1, 'Ada'],
        [2, 'Tom'],
        [1, 'Mo'],
      ],
    }),
  second: (ask) =>
    play(ask, {
      boxes: [
        [3, 'deeds', 1],
        [2, 'plans', 3],
        [2, 'keys', 4],
        [3, 'seeds', 2],
        [1, 'coins', 2],
      ],
      sheets: [
        [2, 1, 'dear Mo', 1],
        [3, 2, 'kale', 1],
        [3, 2, 'barley', 2],
        [1, 1, 'the bay', 1],
      ],
      read: [3, 2, 1],
      gone: [2, 1, 1],
      keepers: [
        [3, 'Ida'],
        [2, 'Ben'],
        [2, 'Una'],
        [3, 'Rob'],
      ],
    }),
  similar: (ask) =>
    play(ask, {
      boxes: [
        [2, 'prints', 3],
        [3, 'hymns', 1],
        [1, 'globes', 2],
        [3, 'plays', 2],
      ],
      sheets: [
        [1, 1, 'the firth', 1],
        [1, 1, 'the ness', 2],
        [2, 1, 'dear Tom', 1],
        [3, 1, 'high tide', 1],
        [3, 2, 'the eel', 1],
      ],
      read: [1, 1, 1],
      gone: [3, 1, 1],
      keepers: [
        [1, 'Eve'],
        [2, 'Jo'],
        [1, 'Sam'],
      ],
    }),
};
