import { draftTraffic, loadService, measureFidelity } from '@upsetter/core';
import { createBerthDesk } from '../../packages/demo/dist/world/berth-desk.js';
import { createAsk } from '../../packages/demo/dist/sessions/ask.js';
import { FIRST_SESSION, playBookingSession } from '../../packages/demo/dist/sessions/booking-session.js';
import { recordSession } from '../support/record.js';
import { test } from 'vitest';
test('dev', async () => {
  const heard = await recordSession(createBerthDesk(), (address) => playBookingSession(createAsk(address), FIRST_SESSION));
  for (const level of (process.env.LEVEL ?? 'as-heard,carried,alive').split(',') as never[]) {
    const draft = draftTraffic(heard, { service: 'berth-desk', origin: null, port: null, level });
    if (process.env.SHOW) console.log(draft.text);
    const loaded = loadService(draft.text);
    if (loaded.kind === 'refused') { console.log(draft.text); console.log(loaded.problems); continue; }
    const f = measureFidelity(loaded.service, heard);
    console.log(level, f.asHeard, '/', f.exchanges, draft.text.length, f.differences);
  }
});
