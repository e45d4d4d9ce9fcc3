import fastify, { type FastifyInstance } from 'fastify';

/** The ports of Skerry Sound, with the mean height of their tide in metres and the lag behind Skerry in minutes. */
const PORTS: Readonly<Record<string, { name: string; mean: number; lagMinutes: number }>> = {
  skerry: { name: 'Skerry', mean: 2.4, lagMinutes: 0 },
  northhaven: { name: 'North Haven', mean: 2.9, lagMinutes: 35 },
  gullrock: { name: 'Gull Rock', mean: 1.8, lagMinutes: 70 },
};

const MS_PER_MINUTE = 60_000;
/** Half a lunar day: from one high water to the next. */
const TIDE_PERIOD_MINUTES = 745;
const SLOW_MS = 120;
const CALLS_PER_MINUTE = 60;

// A one-pixel chart: what matters is that it is no text.
const CHART_PNG = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPj/HwADBwIAMCbHYQAAAABJRU5ErkJggg==';

/** The real tide office: costly, slow, rate-limited, without a specification. Tides by port and day, notices, charts, alarms. */
export function createTideOffice(): FastifyInstance {
  const app = fastify();
  let calls: number[] = [];
  app.addHook('onRequest', async (request, reply) => {
    reply
      .header('access-control-allow-origin', request.headers.origin ?? '*')
      .header('access-control-allow-headers', 'authorization, content-type');
    if (request.method === 'OPTIONS') return reply.code(204).send();
    calls = calls.filter((at) => at > Date.now() - MS_PER_MINUTE);
    if (calls.push(Date.now()) > CALLS_PER_MINUTE)
      return reply.code(429).header('retry-after', '30').send({ error: 'too many calls this minute' });
    await new Promise((resolve) => setTimeout(resolve, SLOW_MS));
  });
  app.get('/ports', async () => Object.entries(PORTS).map(([id, { name }]) => ({ id, name })));
  app.get<{ Params: { port: string }; Querystring: { day?: string } }>('/tides/:port', async (request, reply) => {
    const port = PORTS[request.params.port];
    const day = request.query.day ?? '';
    if (port === undefined) return reply.code(404).send({ error: `no tide gauge at ${request.params.port}` });
    if (!/^\d{4}-\d{2}-\d{2}$/.test(day)) return reply.code(400).send({ error: 'day is a date such as 2026-03-02' });
    reply.header('set-cookie', 'gauge=7f3c9a; Path=/; HttpOnly').header('cache-control', 'max-age=600');
    return { port: request.params.port, day, unit: 'm', tides: predict(port.mean, port.lagMinutes, day) };
  });
  app.get('/notices', async (_request, reply) =>
    reply.type('text/plain; charset=utf-8').send('Gull Rock gauge: readings may be late by 10 minutes.\n'),
  );
  app.get('/charts/skerry.bin', async (_request, reply) =>
    reply.type('application/octet-stream').send(Buffer.from(CHART_PNG, 'base64')),
  );
  app.post<{ Body: { port?: string; above?: number } }>('/alarms', async (request, reply) => {
    const { port, above } = request.body;
    if (port === undefined || above === undefined) return reply.code(422).send({ error: 'port and above are needed' });
    return reply
      .code(201)
      .header('location', `/alarms/${port}-${above}`)
      .send({ alarm: `${port}-${above}`, port, above });
  });
  return app;
}

function predict(
  mean: number,
  lagMinutes: number,
  day: string,
): { at: string; kind: 'high' | 'low'; height: number }[] {
  const startMs = Date.parse(`${day}T00:00:00Z`);
  const dayNumber = Math.floor(startMs / (24 * 60 * MS_PER_MINUTE));
  const first = (dayNumber * 50 + lagMinutes) % TIDE_PERIOD_MINUTES;
  return [0, 1, 2, 3].flatMap((i) => {
    const minute = first + (i * TIDE_PERIOD_MINUTES) / 2;
    if (minute >= 24 * 60) return [];
    const spring = 1 + 0.2 * Math.sin((dayNumber / 14.77) * 2 * Math.PI);
    const kind = i % 2 === 0 ? ('high' as const) : ('low' as const);
    const height = Math.round((kind === 'high' ? mean * spring : mean * 0.3) * 100) / 100;
    return [{ at: new Date(startMs + Math.round(minute) * MS_PER_MINUTE).toISOString(), kind, height }];
  });
}
