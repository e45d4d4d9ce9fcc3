import fastify, { type FastifyInstance } from 'fastify';

/**
 * The harbour board's page: shows the tides of the day. Where it asks is in its address: `/?tides=URL&day=2026-03-02`. Pilots
 * who were assigned are told to `/pilots`, and shown there.
 */
export function createBoardServer(): FastifyInstance {
  const app = fastify();
  app.get('/', async (_request, reply) => reply.type('text/html; charset=utf-8').send(PAGE));
  const pilots: unknown[] = [];
  app.post('/pilots', async (request, reply) => {
    pilots.push(request.body);
    return reply.code(204).send();
  });
  app.get('/pilots', async () => pilots);
  app.get('/board.js', async (_request, reply) => reply.type('text/javascript').send(SCRIPT));
  app.get('/board.css', async (_request, reply) =>
    reply.type('text/css').send('body { font-family: sans-serif; margin: 2rem } td { padding: 0.2rem 1rem }'),
  );
  return app;
}

const PAGE = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Harbour board</title>
<link rel="stylesheet" href="/board.css"></head><body><h1>Skerry Sound: tides</h1><p id="notice"></p><table id="tides"></table>
<p id="done"></p><script type="module" src="/board.js"></script></body></html>`;

const SCRIPT = `
const query = new URLSearchParams(location.search);
const tides = query.get('tides');
const days = (query.get('days') ?? '2026-03-02').split(',');
const headers = { authorization: 'Bearer board-7d1f0c52' };
const ask = async (path, init = {}) => fetch(tides + path, { ...init, headers: { ...headers, ...init.headers } });
const table = document.querySelector('#tides');
for (const { id, name } of await (await ask('/ports')).json()) {
  for (const day of days) {
    const answer = await (await ask('/tides/' + id + '?day=' + day)).json();
    const row = table.insertRow();
    row.insertCell().textContent = name + ', ' + day;
    for (const tide of answer.tides) row.insertCell().textContent = tide.at.slice(11, 16) + ' ' + tide.kind + ' ' + tide.height + ' m';
  }
}
await ask('/tides/driftwood?day=' + days[0]);
await ask('/tides/skerry?day=tomorrow');
document.querySelector('#notice').textContent = await (await ask('/notices')).text();
await (await ask('/charts/skerry.bin')).arrayBuffer();
for (const alarm of [{ port: 'skerry', above: 2.5 }, { port: 'gullrock' }]) {
  await ask('/alarms', { method: 'POST', body: JSON.stringify(alarm), headers: { 'content-type': 'application/json' } });
}
document.querySelector('#done').textContent = 'all asked';
`;
