import { type DraftLevel, draftTraffic } from '@upsetter/core';
import { makeLongSession } from './long-session.js';

/** One draft in a process of its own, so that its memory can be told: prints what it took. */
const [, , count = '1000', level = 'alive'] = process.argv;
const exchanges = makeLongSession(Number(count));
const bytes = exchanges.reduce(
  (sum, { requestBody, body }) => sum + (requestBody?.length ?? 0) + (body?.content.length ?? 0),
  0,
);
const startedMs = performance.now();
const draft = draftTraffic(exchanges, { service: 'bench', origin: null, port: null, level: level as DraftLevel });
const seconds = (performance.now() - startedMs) / 1000;
const { asHeard = 0 } = draft.fidelity ?? {};
console.log(JSON.stringify({ seconds, bytes, peakKb: process.resourceUsage().maxRSS, cases: draft.cases, asHeard }));
