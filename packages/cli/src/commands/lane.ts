import type { LaneView } from '@upsetter/core/wire';
import { EXIT } from '../exit.js';
import { renderClock, renderLane, renderLanes } from '../output/render-lane.js';
import { paint, print, printJson } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';

export interface ClockOptions extends CommonOptions {
  readonly freeze?: true | string;
  readonly advance?: string;
  readonly release?: boolean;
}

export async function listLanes(options: CommonOptions): Promise<number> {
  const lanes: LaneView[] = await connect(options).listLanes();
  if (options.json === true) printJson(lanes);
  else print(renderLanes(lanes));
  return EXIT.done;
}

export async function showLane(name: string, options: CommonOptions): Promise<number> {
  const lane = await connect(options).readLane(name);
  if (options.json === true) printJson(lane);
  else print(renderLane(lane));
  return EXIT.done;
}

export async function resetLane(name: string, options: CommonOptions): Promise<number> {
  await connect(options).resetLane(name);
  if (options.json === true) printJson({ reset: name });
  else print(`${paint.good('reset')}  ${name}  as it was at the start; checks look from now on`);
  return EXIT.done;
}

export async function dropLane(name: string, options: CommonOptions): Promise<number> {
  await connect(options).dropLane(name);
  if (options.json === true) printJson({ dropped: name });
  else print(`${paint.good('dropped')}  ${name}`);
  return EXIT.done;
}

/** Without a change: shows it. */
export async function setClock(name: string, options: ClockOptions): Promise<number> {
  const { freeze, advance, release } = options;
  const clock = await connect(options).setLaneClock(name, {
    ...(freeze === undefined ? {} : { freeze }),
    ...(advance === undefined ? {} : { advance }),
    ...(release === undefined ? {} : { release }),
  });
  if (options.json === true) printJson(clock);
  else print(`${name}  ${renderClock(clock)}`);
  return EXIT.done;
}
