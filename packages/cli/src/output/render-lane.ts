import type { LaneView } from '@upsetter/core/wire';
import { renderCount } from './render-count.js';
import { renderTable } from './render-table.js';
import { paint } from './terminal.js';

export function renderLanes(lanes: readonly LaneView[]): string {
  const rows = lanes.map(({ name, calls, lastCallAt, clock, services }) => [
    name,
    String(calls),
    lastCallAt ?? 'never',
    clock.isFrozen || clock.aheadMs !== 0 ? renderClock(clock) : 'real time',
    services.map(({ service }) => service).join(', '),
  ]);
  return renderTable(['lane', 'calls', 'last call', 'clock', 'services'], rows);
}

/** A lane, with what is another there than at the start. */
export function renderLane({ name, calls, clock, resetAt, services }: LaneView): string {
  const reset = resetAt === null ? '' : paint.faint(`  reset at ${resetAt}`);
  const lines = [`${paint.strong(name)}  ${renderCount(calls, 'call')}  ${renderClock(clock)}${reset}`];
  for (const { service, calls: own, state, rows, counters } of services) {
    lines.push('', `${paint.strong(service)}  ${renderCount(own, 'call')}`);
    for (const [key, value] of Object.entries(state)) lines.push(`  state ${key}  ${JSON.stringify(value)}`);
    for (const [key, count] of Object.entries(rows)) lines.push(`  dataset ${key}  ${renderCount(count, 'row')} now`);
    for (const [key, value] of Object.entries(counters)) lines.push(`  counter ${key}  ${value}`);
    if (Object.keys({ ...state, ...rows, ...counters }).length === 0) lines.push(paint.faint('  as at the start'));
  }
  return lines.join('\n');
}

export function renderClock({ now, isFrozen, aheadMs }: LaneView['clock']): string {
  if (isFrozen) return `${now} (stands still)`;
  if (aheadMs === 0) return `${now} (real time)`;
  const hours = Math.round((Math.abs(aheadMs) / 3_600_000) * 100) / 100;
  return `${now} (${hours} h ${aheadMs > 0 ? 'ahead' : 'behind'})`;
}
