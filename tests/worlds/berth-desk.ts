import { type BookingPlan, FIRST_SESSION, playBookingSession, SECOND_SESSION } from '@upsetter/demo/sessions';
import { createBerthDesk } from '@upsetter/demo/world';
import type { World } from './world.js';

const SIMILAR: BookingPlan = {
  user: 'una',
  bookings: [
    { berthId: 'N7', vessel: { name: 'Fulmar', imo: '9444444' }, renamed: 'Fulmar Grey' },
    { berthId: 'S1', vessel: { name: 'Whimbrel', imo: '9555555' }, renamed: 'Whimbrel Wide' },
  ],
};

export const berthDesk: World = {
  habits: 'login first, uuids, actions that change a state, one thing that changes another, filters, totals',
  create: createBerthDesk,
  first: (ask) => playBookingSession(ask, FIRST_SESSION),
  similar: (ask) => playBookingSession(ask, SIMILAR),
  second: (ask) => playBookingSession(ask, SECOND_SESSION),
};
