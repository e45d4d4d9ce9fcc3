export type { CallBatch, CallsWanted, LaneClockChange } from './client-requests.js';
export { UpsetterClient } from './upsetter-client.js';
export { UpsetterProblem } from './upsetter-problem.js';
