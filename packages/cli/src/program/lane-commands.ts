import type { CommonOptions } from '../commands/connect.js';
import type { ClockOptions } from '../commands/lane.js';
import { type CommandAdder, withCommon } from './command-adder.js';

/** Commands about lanes: list, look at one, reset, drop, set its clock. */
export function addLaneCommands(add: CommandAdder): void {
  const lane = add.group(
    'lane',
    "Lanes: callers' private worlds, over all services.",
    'upsetter lane reset night-shift',
  );
  const listing = withCommon(add.command('list', 'List the lanes.', 'upsetter lane list', lane));
  add.action(listing, async (options: CommonOptions) => (await import('../commands/lane.js')).listLanes(options));
  const showing = withCommon(
    add.command(
      'show <lane>',
      'Show what is another in a lane than at the start.',
      'upsetter lane show night-shift',
      lane,
    ),
  );
  add.action(showing, async (name: string, options: CommonOptions) =>
    (await import('../commands/lane.js')).showLane(name, options),
  );
  const resetting = withCommon(
    add.command(
      'reset <lane>',
      'Make a lane as it was at the start; checks look from now on.',
      'upsetter lane reset main',
      lane,
    ),
  );
  add.action(resetting, async (name: string, options: CommonOptions) =>
    (await import('../commands/lane.js')).resetLane(name, options),
  );
  const dropping = withCommon(add.command('drop <lane>', 'Let go of a lane.', 'upsetter lane drop night-shift', lane));
  add.action(dropping, async (name: string, options: CommonOptions) =>
    (await import('../commands/lane.js')).dropLane(name, options),
  );
  const clocking = withCommon(
    add.command('clock <lane>', "Show or set a lane's clock.", 'upsetter lane clock night-shift --advance 6h', lane),
  )
    .option('--freeze [date]', 'let it stand still: where it is, or at an RFC 3339 date')
    .option('--advance <duration>', 'set it on: 90m, 2d, or back: -1d')
    .option('--release', 'real time again');
  add.action(clocking, async (name: string, options: ClockOptions) =>
    (await import('../commands/lane.js')).setClock(name, options),
  );
}
