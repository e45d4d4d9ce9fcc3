import { type Ask, expectThat } from '@upsetter/demo/sessions';
import fastify, { type FastifyInstance } from 'fastify';
import type { World } from './world.js';

interface Tree {
  id: number;
  rowId: number;
  sort: string;
  planted: string;
  pruned: boolean;
}

/** Rows of trees: numeric ids, lists at the top, nested trees, PUT that answers the whole, DELETE without a body, errors that quote. */
function createOrchard(): FastifyInstance {
  const app = fastify();
  const rows = [
    { id: 1, name: 'Upper row' },
    { id: 2, name: 'Lower row' },
  ];
  const trees = new Map<number, Tree>();
  let lastId = 40;
  app.get('/api/v1/rows', async () => rows);
  app.get<{ Params: { row: string } }>('/api/v1/rows/:row', async (request, reply) => {
    const row = rows.find(({ id }) => id === Number(request.params.row));
    return row ?? reply.code(404).send({ error: `no row ${request.params.row}` });
  });
  app.get<{ Params: { row: string }; Querystring: { sort?: string } }>('/api/v1/rows/:row/trees', async (request) => {
    const { sort } = request.query;
    return [...trees.values()].filter(
      (tree) => tree.rowId === Number(request.params.row) && (sort === undefined || tree.sort === sort),
    );
  });
  app.post<{ Params: { row: string }; Body: { sort?: string; planted?: string } }>(
    '/api/v1/rows/:row/trees',
    async (request, reply) => {
      const { sort, planted } = request.body;
      if (sort === undefined || planted === undefined)
        return reply.code(400).send({ error: 'sort and planted are needed', got: request.body });
      const tree = { id: ++lastId, rowId: Number(request.params.row), sort, planted, pruned: false };
      trees.set(tree.id, tree);
      return reply.code(201).send(tree);
    },
  );
  app.get<{ Params: { id: string } }>('/api/v1/trees/:id', async (request, reply) => {
    const tree = trees.get(Number(request.params.id));
    return tree ?? reply.code(404).send({ error: `no tree ${request.params.id}` });
  });
  app.put<{ Params: { id: string }; Body: Omit<Tree, 'id' | 'rowId'> }>('/api/v1/trees/:id', async (request, reply) => {
    const tree = trees.get(Number(request.params.id));
    if (tree === undefined) return reply.code(404).send({ error: `no tree ${request.params.id}` });
    const changed = { id: tree.id, rowId: tree.rowId, ...request.body };
    trees.set(tree.id, changed);
    return changed;
  });
  app.delete<{ Params: { id: string } }>('/api/v1/trees/:id', async (request, reply) => {
    const isThere = trees.delete(Number(request.params.id));
    return isThere ? reply.code(204).send() : reply.code(404).send({ error: `no tree ${request.params.id}` });
  });
  return app;
}

type Planted = readonly { readonly row: number; readonly sort: string; readonly planted: string }[];

async function play(ask: Ask, plan: Planted): Promise<void> {
  const rows = (await ask('GET', '/api/v1/rows')).json as { id: number; name: string }[];
  expectThat(rows.length === 2, 'two rows');
  expectThat(
    ((await ask('GET', `/api/v1/rows/${plan[0]?.row}`)).json as { id: number }).id === plan[0]?.row,
    'the row',
  );
  expectThat((await treesOf(ask, 1)).length === 0, 'no trees at first');
  const made: Tree[] = [];
  for (const { row, ...tree } of plan) {
    const answer = await ask('POST', `/api/v1/rows/${row}/trees`, { json: tree });
    const own = answer.json as Tree;
    expectThat(answer.status === 201 && own.rowId === row && own.sort === tree.sort && !own.pruned, 'a tree');
    made.push(own);
  }
  expectThat(new Set(made.map(({ id }) => id)).size === plan.length, 'ids of their own');
  const refused = await ask('POST', '/api/v1/rows/1/trees', { json: { sort: 'quince' } });
  expectThat(
    refused.status === 400 && (refused.json as { got: { sort: string } }).got.sort === 'quince',
    'a refusal that quotes',
  );
  for (const row of [1, 2])
    expectThat(
      (await treesOf(ask, row)).map(({ id }) => id).join() ===
        made
          .filter(({ rowId }) => rowId === row)
          .map(({ id }) => id)
          .join(),
      `the trees of row ${row}`,
    );
  const [first, ...others] = made as [Tree, ...Tree[]];
  expectThat(
    (await treesOf(ask, first.rowId, `?sort=${first.sort}`)).every(({ sort }) => sort === first.sort),
    'one sort only',
  );
  for (const { id, sort, planted } of others) {
    const put = (await ask('PUT', `/api/v1/trees/${id}`, { json: { sort, planted, pruned: true } })).json as Tree;
    expectThat(put.id === id && put.pruned && put.planted === planted, 'the whole tree');
    expectThat(((await ask('GET', `/api/v1/trees/${id}`)).json as Tree).pruned, 'the tree pruned');
  }
  expectThat(!((await ask('GET', `/api/v1/trees/${first.id}`)).json as Tree).pruned, 'the first not pruned');
  expectThat((await ask('DELETE', `/api/v1/trees/${first.id}`)).status === 204, 'the tree felled');
  const gone = await ask('GET', `/api/v1/trees/${first.id}`);
  expectThat(gone.status === 404 && (gone.json as { error: string }).error === `no tree ${first.id}`, 'it gone');
  expectThat((await ask('DELETE', `/api/v1/trees/${first.id}`)).status === 404, 'it gone for good');
  expectThat(
    (await treesOf(ask, first.rowId)).every(({ id }) => id !== first.id),
    'it gone from the list',
  );
}

async function treesOf(ask: Ask, row: number, query = ''): Promise<readonly Tree[]> {
  return (await ask('GET', `/api/v1/rows/${row}/trees${query}`)).json;
}

export const orchard: World = {
  habits:
    'numeric ids, lists at the top, nested paths, whole answers to PUT, 204 to DELETE, errors that quote the request',
  create: createOrchard,
  first: (ask) =>
    play(ask, [
      { row: 1, sort: 'russet', planted: '2019-11-02' },
      { row: 1, sort: 'pippin', planted: '2020-03-14' },
      { row: 2, sort: 'russet', planted: '2021-10-30' },
    ]),
  similar: (ask) =>
    play(ask, [
      { row: 1, sort: 'codlin', planted: '2018-01-20' },
      { row: 1, sort: 'costard', planted: '2017-02-11' },
      { row: 2, sort: 'codlin', planted: '2016-12-01' },
    ]),
  second: (ask) =>
    play(ask, [
      { row: 2, sort: 'damson', planted: '2022-04-01' },
      { row: 1, sort: 'medlar', planted: '2015-05-05' },
      { row: 2, sort: 'bullace', planted: '2014-06-06' },
      { row: 1, sort: 'damson', planted: '2013-07-07' },
    ]),
};
