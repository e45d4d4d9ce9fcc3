import {
  type Draft,
  type DraftLevel,
  draftTraffic,
  type Exchange,
  type Fidelity,
  measureFidelity,
  requireService,
} from '@upsetter/core';
import { type Ask, createAsk } from '@upsetter/demo/sessions';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { recordSession } from '../support/record.js';
import { startTestUpsetter, type TestUpsetter } from '../support/upsetter.js';
import { archive } from '../worlds/archive.js';
import { bakery } from '../worlds/bakery.js';
import { berthDesk } from '../worlds/berth-desk.js';
import { cabins } from '../worlds/cabins.js';
import { chandlery } from '../worlds/chandlery.js';
import { chartRoom } from '../worlds/chart-room.js';
import { cookieRoom, letterRoom } from '../worlds/letter-room.js';
import { logbook } from '../worlds/logbook.js';
import { observatory } from '../worlds/observatory.js';
import { orchard } from '../worlds/orchard.js';
import { pictureHouse } from '../worlds/picture-house.js';
import { playhouse } from '../worlds/playhouse.js';
import { printShop } from '../worlds/print-shop.js';
import { roadstead } from '../worlds/roadstead.js';
import type { World } from '../worlds/world.js';

const WORLDS: readonly World[] = [
  berthDesk,
  orchard,
  printShop,
  observatory,
  bakery,
  chandlery,
  playhouse,
  logbook,
  roadstead,
  archive,
  letterRoom,
  cookieRoom,
  pictureHouse,
  chartRoom,
];

let upsetter: TestUpsetter;
beforeAll(async () => {
  upsetter = await startTestUpsetter();
});
afterAll(() => upsetter.stop());

describe.each(WORLDS.map((world) => [world.habits, world] as const))('%s', (habits, world) => {
  const name = `w-${habits
    .replaceAll(/[^a-z]+/g, '-')
    .slice(0, 20)
    .replace(/-$/, '')}`;
  let heard: Exchange[] = [];
  const drafts = new Map<DraftLevel, { draft: Draft; fidelity: Fidelity }>();
  beforeAll(async () => {
    heard = await recordSession(world.create(), (address) => world.first(createAsk(address)));
    for (const level of ['as-heard', 'carried', 'alive'] as const) {
      const draft = draftTraffic(heard, { service: `${name}-${level}`, origin: null, port: null, level });
      if (process.env['SHOW_DRAFT'] === level) console.log(draft.text);
      drafts.set(level, { draft, fidelity: measureFidelity(requireService(draft.text, draft.files), heard) });
    }
  });

  /** A mock of the draft, in a lane of its own. */
  const serve = async (level: DraftLevel, lane: string): Promise<Ask> => {
    const { draft } = drafts.get(level) as { draft: Draft };
    const { address } = await upsetter.client.saveService(draft.service, draft.text, { files: draft.files });
    const ask = createAsk(address ?? '');
    return (method, path, asked = {}) =>
      ask(method, path, { ...asked, headers: { 'upsetter-lane': lane, ...asked.headers } });
  };

  test.each(['as-heard', 'carried', 'alive'] as const)('the draft %s answers its own session as heard', (level) => {
    expect(drafts.get(level)?.fidelity).toMatchObject({ asHeard: heard.length, differences: [] });
  });

  test.each(['as-heard', 'carried', 'alive'] as const)(
    'the same session passes against the draft %s',
    async (level) => {
      await world.first(await serve(level, 'first'));
    },
  );

  test.each(['as-heard', 'alive'] as const)('with every read sent three times, too (%s)', async (level) => {
    const ask = await serve(level, 'thrice');
    await world.first(async (method, path, asked) => {
      if (method !== 'GET') return ask(method, path, asked);
      await ask(method, path, asked);
      await ask(method, path, asked);
      return ask(method, path, asked);
    });
  });

  test('another session of the same shape passes against the draft carried', async () => {
    await world.similar(await serve('carried', 'similar'));
  });

  test('another session, with one item more and in another order, passes against the draft alive', async () => {
    await world.second(await serve('alive', 'second'));
  });
});

describe('what was concluded and does not hold for the session itself is taken back', () => {
  test.each(['carried', 'alive'] as const)(
    'things that a query tells apart are answered as heard (%s)',
    async (level) => {
      const heard = await recordSession(cabins.create(), (address) => cabins.first(createAsk(address)));
      const draft = draftTraffic(heard, { service: `decks-${level}`, origin: null, port: null, level });
      expect(draft.fidelity).toMatchObject({ asHeard: heard.length, differences: [] });
      expect(draft.decisions).toContainEqual(
        expect.objectContaining({ of: 'readCabin', concluded: 'answers as heard' }),
      );
      const { address } = await upsetter.client.saveService(draft.service, draft.text, { files: draft.files });
      await cabins.first(createAsk(address ?? ''));
    },
  );
});
