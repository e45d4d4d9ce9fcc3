/** A vessel that wants a berth. */
export interface Vessel {
  readonly name: string;
  readonly imo: string;
  readonly length: number;
}

export interface BoardAddresses {
  readonly berthDesk: string;
  readonly tideOffice: string;
  readonly pilotRoster: string;
  /** The board itself: where the pilot roster tells who comes. */
  readonly board: string;
}

export interface BoardJourney {
  readonly port: string;
  readonly day: string;
  readonly berthId: string;
  readonly vessel: Vessel;
  /** The lane of the caller's test, passed on to every service as W3C Baggage. */
  readonly lane: string;
}

const MOST_TRIES = 3;
const RETRY_MS = 50;

/** The harbour board, the application under test: asks the tide, reads the berth, books it, and asks for a pilot, who is told to it later. Retries what fails with 5xx. Gives each status. */
export async function bookBerth(addresses: BoardAddresses, journey: BoardJourney): Promise<number[]> {
  const headers = { baggage: `lane=${journey.lane}`, authorization: 'Bearer board-7d1f0c52' };
  const ask = (url: string, init: RequestInit = {}) =>
    withRetries(() => fetch(url, { ...init, headers: { ...headers, ...init.headers } }));
  const { berthDesk, tideOffice, pilotRoster, board } = addresses;
  const tide = await ask(`${tideOffice}/tides/${journey.port}?day=${journey.day}`);
  const berth = await ask(`${berthDesk}/berths/${journey.berthId}`);
  const booking = await ask(`${berthDesk}/bookings`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ berthId: journey.berthId, vessel: journey.vessel }),
  });
  const { imo, length } = journey.vessel;
  const pilot = await ask(`${pilotRoster}/requests`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ vessel: imo, length, at: `${journey.day}T08:00:00Z`, notify: `${board}/pilots` }),
  });
  return [tide.status, berth.status, booking.status, pilot.status];
}

async function withRetries(send: () => Promise<Response>): Promise<Response> {
  for (let tries = 1; ; tries++) {
    const response = await send();
    if (response.status < 500 || tries === MOST_TRIES) return response;
    await new Promise((resolve) => setTimeout(resolve, RETRY_MS * tries));
  }
}
