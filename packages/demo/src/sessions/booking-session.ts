import { type Ask, expectThat } from './ask.js';

interface Vessel {
  readonly name: string;
  readonly imo: string;
}

export interface BookingPlan {
  readonly user: string;
  readonly bookings: readonly { readonly berthId: string; readonly vessel: Vessel; readonly renamed: string }[];
}

export const FIRST_SESSION: BookingPlan = {
  user: 'ida',
  bookings: [
    { berthId: 'N7', vessel: { name: 'Petrel', imo: '9321483' }, renamed: 'Storm Petrel' },
    { berthId: 'S1', vessel: { name: 'Sula', imo: '9074729' }, renamed: 'Sula Nord' },
  ],
};

/** Another day: other names, one booking more, the berths in another order. */
export const SECOND_SESSION: BookingPlan = {
  user: 'ola',
  bookings: [
    { berthId: 'S1', vessel: { name: 'Anna Grey', imo: '9111111' }, renamed: 'Anna Black' },
    { berthId: 'N8', vessel: { name: 'Kittiwake', imo: '9222222' }, renamed: 'Kittiwake II' },
    { berthId: 'N7', vessel: { name: 'Skua', imo: '9333333' }, renamed: 'Great Skua' },
  ],
};

interface Booking {
  readonly id: string;
  readonly berthId: string;
  readonly state: string;
  readonly vessel: Vessel;
}

/** The harbour board's booking session: logs in, books, holds, renames, confirms, lists, releases, lists again; checks every step. */
export async function playBookingSession(ask: Ask, { user, bookings }: BookingPlan): Promise<void> {
  const login = (await ask('POST', '/login', { json: { user } })).json as { token: string; user: string };
  expectThat(login.user === user && login.token.length > 10, 'a token');
  const headers = { authorization: `Bearer ${login.token}` };
  const { berthId: firstBerth, vessel: firstVessel } = bookings[0] as BookingPlan['bookings'][number];
  const first = { berthId: firstBerth, vessel: firstVessel };
  const free = (await ask('GET', '/berths/free')).json as { berths: { id: string }[]; total: number };
  expectThat(
    bookings.every(({ berthId }) => free.berths.some(({ id }) => id === berthId)),
    'the berths free',
  );
  expectThat((await ask('POST', '/bookings', { json: first })).status === 401, 'no booking without a login');
  expectThat((await list(ask)).length === 0, 'no bookings at first');
  const made: Booking[] = [];
  for (const { berthId, vessel } of bookings) {
    const created = await ask('POST', '/bookings', { json: { berthId, vessel }, headers });
    const booking = created.json as Booking;
    expectThat(
      created.status === 201 && booking.berthId === berthId && booking.vessel.name === vessel.name,
      'a booking',
    );
    expectThat(created.headers.get('location') === `/bookings/${booking.id}`, 'its address');
    expectThat(!((await ask('GET', `/berths/${berthId}`)).json as { free: boolean }).free, `berth ${berthId} taken`);
    made.push(booking);
  }
  expectThat(new Set(made.map(({ id }) => id)).size === bookings.length, 'ids of their own');
  const taken = await ask('POST', '/bookings', { json: first, headers });
  expectThat(
    taken.status === 409 && (taken.json as { title: string }).title === `Berth ${first.berthId} is taken`,
    'a refusal',
  );
  await workOn(ask, made, bookings);
  const [gone] = made as [Booking, ...Booking[]];
  const missing = await ask('GET', '/bookings/00000000-0000-4000-8000-000000000000');
  expectThat(missing.status === 404, 'no booking of an unknown id');
  const released = await ask('POST', `/bookings/${gone.id}/release`);
  expectThat((released.json as Booking).state === 'released', 'the booking released');
  expectThat(((await ask('GET', `/berths/${gone.berthId}`)).json as { free: boolean }).free, 'its berth free again');
  expectThat((await list(ask, '?state=confirmed')).length === bookings.length - 1, 'the others confirmed');
  const all = await list(ask);
  expectThat(all.find(({ id }) => id === gone.id)?.state === 'released', 'the released one in the list');
}

async function workOn(ask: Ask, made: readonly Booking[], bookings: BookingPlan['bookings']): Promise<void> {
  for (const [i, { id }] of made.entries()) {
    const { renamed, vessel } = bookings[i] as BookingPlan['bookings'][number];
    const read = async (): Promise<Booking> => (await ask('GET', `/bookings/${id}`)).json;
    expectThat((await read()).state === 'requested', 'the booking requested');
    expectThat((await ask('POST', `/bookings/${id}/confirm`)).status === 409, 'no confirmation before the hold');
    expectThat(((await ask('POST', `/bookings/${id}/hold`)).json as Booking).state === 'held', 'the booking held');
    expectThat((await read()).state === 'held', 'the booking read as held');
    await ask('PATCH', `/bookings/${id}`, { json: { vessel: { ...vessel, name: renamed } } });
    const changed = await read();
    expectThat(changed.vessel.name === renamed && changed.state === 'held', 'the new name');
    expectThat(
      ((await ask('POST', `/bookings/${id}/confirm`)).json as Booking).state === 'confirmed',
      'a confirmation',
    );
  }
  const listed = await list(ask);
  expectThat(
    listed.length === made.length && listed.every(({ state }) => state === 'confirmed'),
    'all of them confirmed',
  );
  expectThat(
    listed.map(({ vessel }) => vessel.name).join() === bookings.map(({ renamed }) => renamed).join(),
    'the new names',
  );
}

async function list(ask: Ask, query = ''): Promise<readonly Booking[]> {
  const { bookings, total } = (await ask('GET', `/bookings${query}`)).json as { bookings: Booking[]; total: number };
  expectThat(bookings.length === total, 'a total that fits the list');
  return bookings;
}
