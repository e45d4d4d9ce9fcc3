export { type Answered, type Ask, type Asked, createAsk, expectThat } from './ask.js';
export {
  type BookingPlan,
  FIRST_SESSION,
  playBookingSession,
  SECOND_SESSION,
} from './booking-session.js';
