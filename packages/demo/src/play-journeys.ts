import { type BoardAddresses, type BoardJourney, bookBerth } from './harbour-board/book-berth.js';

const JOURNEYS: readonly BoardJourney[] = [
  {
    port: 'skerry',
    day: '2026-03-04',
    berthId: 'N7',
    vessel: { name: 'Petrel', imo: '9321483', length: 96 },
    lane: 'main',
  },
  {
    port: 'northhaven',
    day: '2026-03-02',
    berthId: 'S1',
    vessel: { name: 'Anna Grey', imo: '9074729', length: 118 },
    lane: 'main',
  },
  {
    port: 'driftwood',
    day: '2026-03-02',
    berthId: 'W4',
    vessel: { name: 'Sula', imo: '88', length: 22 },
    lane: 'main',
  },
  {
    port: 'gullrock',
    day: '2026-03-03',
    berthId: 'N8',
    vessel: { name: 'Kittiwake', imo: '9111111', length: 74 },
    lane: 'night-shift',
  },
];

/** The harbour board's day: bookings that work, one too long for its berth, one stray, a lane of its own, a path nobody serves. */
export async function playJourneys(addresses: BoardAddresses & { readonly vesselRegister: string }): Promise<void> {
  for (const journey of JOURNEYS) await bookBerth(addresses, journey);
  await fetch(`${addresses.tideOffice}/notices`);
  await fetch(`${addresses.tideOffice}/tide/skerry?day=2026-03-02`);
  await fetch(`${addresses.berthDesk}/berths/N7`, { method: 'DELETE' });
  await fetch(`${addresses.vesselRegister}/vessels?type=tanker&length.above=50&sort=-length`);
  await fetch(`${addresses.vesselRegister}/vessels/9321477/visits?limit=2&with=vessel`);
}
