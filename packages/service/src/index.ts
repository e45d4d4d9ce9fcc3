export type { RunningUpsetter, UpsetterOptions } from './main.js';
export { startUpsetter } from './main.js';
