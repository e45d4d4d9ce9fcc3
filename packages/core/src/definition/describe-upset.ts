import type { BreakDefinition } from './break.js';
import type { DelayDefinition } from './delay.js';
import type { PaceDefinition } from './pace.js';
import type { UpsetDefinition } from './upset.js';
import type { DuringDefinition } from './upset-timing.js';

/** What an upset does, in a few words, which are its name where nobody gave one: `delay 800ms, 30% of the calls, of readTide`. */
export function describeUpset(definition: Omit<UpsetDefinition, 'upset'>): string {
  const { delay, pace, answer, break: broken, share, first, every, during, of } = definition;
  const words = [
    delay === undefined ? '' : `delay ${describeDelay(delay)}`,
    pace === undefined ? '' : `pace ${describePace(pace)}`,
    answer === undefined ? '' : `answer ${answer.status ?? 200}`,
    broken === undefined ? '' : `break ${describeBreak(broken)}`,
    share === undefined ? '' : `${share} of the calls`,
    first === undefined ? '' : `the first ${first} calls of a lane`,
    every === undefined ? '' : `one in ${every} calls of a lane`,
    during === undefined ? '' : describeDuring(during),
    of === undefined ? '' : `of ${of.join(', ')}`,
  ];
  return words.filter((word) => word !== '').join(', ');
}

/** `800ms`, `200ms to 1s`, `median 300ms, p95 1.2s` */
function describeDelay(delay: DelayDefinition): string {
  if (typeof delay === 'string') return delay;
  return 'low' in delay ? `${delay.low} to ${delay.high}` : `median ${delay.median}, p95 ${delay.p95}`;
}

function describePace(pace: PaceDefinition): string {
  return typeof pace === 'string' ? pace : `${pace.pieces} pieces, ${pace.gap} apart`;
}

function describeBreak(own: BreakDefinition): string {
  if (typeof own === 'string') return own;
  return own.kept === false || own.kept === 'no' ? `${own.as}, nothing kept` : own.as;
}

function describeDuring({ from, for: length, again }: DuringDefinition): string {
  const once = `for ${length}${from === undefined ? '' : `, ${from} after it is switched on`}`;
  return again === undefined ? once : `${once}, again every ${again}`;
}
