export type { CallBatch, CallsWanted } from './upsetter-client.js';
export { UpsetterClient } from './upsetter-client.js';
export { UpsetterProblem } from './upsetter-problem.js';
