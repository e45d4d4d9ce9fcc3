import type { UpsetterClient } from '@upsetter/client';
import { createAsk } from './sessions/ask.js';
import { type BookingPlan, FIRST_SESSION, playBookingSession, SECOND_SESSION } from './sessions/booking-session.js';

const TAKES: readonly (readonly [name: string, plan: BookingPlan])[] = [
  ['booking', FIRST_SESSION],
  ['booking-next-day', SECOND_SESSION],
];

/** Two booking sessions of the harbour board with the real berth desk, heard through a relay. Those that are there already stay. */
export async function recordTakes(client: UpsetterClient, startDesk: () => Promise<Desk>): Promise<void> {
  const known = new Set((await client.listTakes()).map(({ name }) => name));
  for (const [name, plan] of TAKES) {
    if (known.has(name)) {
      console.log(`kept the take ${name}`);
      continue;
    }
    const desk = await startDesk();
    const take = await client.startTake({ name, from: desk.url });
    await playBookingSession(createAsk(take.address ?? ''), plan);
    const { exchanges } = await client.stopTake(name);
    await desk.stop();
    console.log(`heard the take ${name}, ${exchanges} exchanges`);
  }
}

/** A real berth desk that has no bookings yet. */
export interface Desk {
  readonly url: string;
  readonly stop: () => Promise<void>;
}
