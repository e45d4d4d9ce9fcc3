import { appendFileSync } from 'node:fs';
import { draftTraffic, measureFidelity, requireService } from '@upsetter/core';
import { createAsk } from '@upsetter/demo/sessions';
import { test } from 'vitest';
import { recordSession } from '../support/record.js';
import { startTestUpsetter } from '../support/upsetter.js';
import { bakery } from '../worlds/bakery.js';
import { berthDesk } from '../worlds/berth-desk.js';
import { chandlery } from '../worlds/chandlery.js';
import { logbook } from '../worlds/logbook.js';
import { observatory } from '../worlds/observatory.js';
import { orchard } from '../worlds/orchard.js';
import { playhouse } from '../worlds/playhouse.js';
import { printShop } from '../worlds/print-shop.js';
const W = { berthDesk, orchard, printShop, observatory, bakery, chandlery, playhouse, logbook };
test('loop', async () => {
  const upsetter = await startTestUpsetter();
  const end = Date.now() + Number(process.env['LOOP_S'] ?? 240) * 1000; let rounds = 0; let failures = 0;
  while (Date.now() < end) {
    rounds++;
    for (const [name, world] of Object.entries(W)) {
      const heard = await recordSession(world.create(), (a) => world.first(createAsk(a)));
      for (const level of ['as-heard', 'carried', 'alive'] as const) {
        const draft = draftTraffic(heard, { service: `l-${name.toLowerCase()}-${level}`, origin: null, port: null, level });
        const f = measureFidelity(requireService(draft.text, draft.files), heard);
        if (f.differences.length > 0) { failures++; appendFileSync('/tmp/loop.txt', `${name} ${level} fidelity ${JSON.stringify(f.differences[0])}\n`); }
        const { address } = await upsetter.client.saveService(draft.service, draft.text, { files: draft.files });
        const lane = (l: string) => { const ask = createAsk(address ?? ''); return ((m: string, p: string, a: any = {}) => ask(m, p, { ...a, headers: { 'upsetter-lane': `${l}${rounds}`, ...a.headers } })) as any; };
        const plays = level === 'alive' ? ([['first', world.first], ['second', world.second]] as const) : level === 'carried' ? ([['first', world.first], ['similar', world.similar]] as const) : ([['first', world.first]] as const);
        for (const [what, play] of plays) await play(lane(what)).catch((e: Error) => { failures++; appendFileSync('/tmp/loop.txt', `${name} ${level} ${what} ${e.message}\n`); appendFileSync(`/tmp/loop-${name}-${level}-${what}.yaml`, draft.text); });
      }
    }
  }
  appendFileSync('/tmp/loop.txt', `rounds ${rounds} failures ${failures}\n`);
  await upsetter.stop();
}, 3_600_000);
