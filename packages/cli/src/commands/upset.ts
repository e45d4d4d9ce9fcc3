import type { UpsetDefinition } from '@upsetter/core';
import { AppError, describeUpset, parseDuration, parseRate, parseShare } from '@upsetter/core/light';
import { EXIT } from '../exit.js';
import { renderCount } from '../output/render-count.js';
import { paint, print, printJson } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';

export interface UpsetOptions extends CommonOptions {
  readonly name?: string;
  readonly delay?: string;
  readonly pace?: string;
  readonly pieces?: string;
  readonly gap?: string;
  readonly answer?: string;
  readonly break?: string;
  readonly share?: string;
  readonly first?: string;
  readonly every?: string;
  readonly from?: string;
  readonly for?: string;
  readonly again?: string;
}

/** Switches an upset on, at once: of the whole service, or of the operations named. */
export async function upsetService(
  service: string,
  operations: readonly string[],
  options: UpsetOptions,
): Promise<number> {
  const definition = buildUpset(operations, options);
  const upsets = await connect(options).upset(service, definition);
  if (options.json === true) printJson(upsets);
  else print(`${paint.upset('upset')}  ${service}  ${definition.upset}\ncalm again: upsetter calm ${service}`);
  return EXIT.done;
}

function buildUpset(operations: readonly string[], options: UpsetOptions): UpsetDefinition {
  const { answer, name, break: broken } = options;
  const delay = readAs(options.delay, '--delay is a duration such as 800ms or 2s', parseDuration);
  const pace = readPace(options);
  if ([delay, pace, answer, broken].every((own) => own === undefined))
    throw new AppError('wrong-use', 'an upset does something: give --delay, --pace, --answer or --break');
  const share = readAs(options.share, '--share is a share from 0% to 100%', parseShare);
  const counts = { first: readCount('--first', 1, options.first), every: readCount('--every', 2, options.every) };
  const during = readDuring(options);
  if ([share, counts.first, counts.every, during].filter((own) => own !== undefined).length > 1)
    throw new AppError('wrong-use', 'one of --share, --first, --every and --for says which calls are upset');
  const what = {
    ...(operations.length === 0 ? {} : { of: [...operations] }),
    ...(share === undefined ? {} : { share }),
    ...(counts.first === undefined ? {} : { first: counts.first }),
    ...(counts.every === undefined ? {} : { every: counts.every }),
    ...(during === undefined ? {} : { during }),
    ...(delay === undefined ? {} : { delay }),
    ...(pace === undefined ? {} : { pace }),
    ...(broken === undefined ? {} : { break: readBreak(broken) }),
    ...(answer === undefined
      ? {}
      : { answer: { status: readStatus(answer), problem: { title: `Upset: ${name ?? answer}` } } }),
  };
  return { upset: name ?? describeUpset(what), ...what };
}

/** The text as it stands, once it is known to be one; `wanted`: what it should be. */
function readAs(text: string | undefined, wanted: string, parse: (text: string) => number | null): string | undefined {
  if (text !== undefined && parse(text) === null) throw new AppError('wrong-use', `${wanted}, not ${text}`);
  return text;
}

function readCount(option: string, least: number, text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const count = Number(text);
  if (!Number.isInteger(count) || count < least)
    throw new AppError('wrong-use', `${option} is a number of calls, from ${least}, not ${text}`);
  return count;
}

function readPace({ pace, pieces, gap }: UpsetOptions): UpsetDefinition['pace'] {
  if (pieces === undefined && gap === undefined)
    return readAs(pace, '--pace is a rate such as 500B/s, 20kB/s or 1.5MB/s', parseRate);
  if (pace !== undefined || pieces === undefined || gap === undefined)
    throw new AppError('wrong-use', 'a body is slowed by --pace RATE, or by --pieces COUNT with --gap DURATION');
  readAs(gap, '--gap is a duration such as 400ms', parseDuration);
  return { pieces: readCount('--pieces', 2, pieces) ?? 2, gap };
}

function readDuring({ from, for: length, again }: UpsetOptions): UpsetDefinition['during'] {
  if (from === undefined && length === undefined && again === undefined) return undefined;
  if (length === undefined) throw new AppError('wrong-use', '--from and --again go with --for, how long it holds');
  for (const [option, text] of Object.entries({ '--from': from, '--for': length, '--again': again }))
    readAs(text, `${option} is a duration such as 30s`, parseDuration);
  return { ...(from === undefined ? {} : { from }), for: length, ...(again === undefined ? {} : { again }) };
}

const BREAKS = ['silence', 'hangup', 'reset'] as const;

function readBreak(text: string): (typeof BREAKS)[number] {
  const known = BREAKS.find((own) => own === text);
  if (known === undefined) throw new AppError('wrong-use', `--break is ${BREAKS.join(', ')}, not ${text}`);
  return known;
}

function readStatus(text: string): number {
  const status = Number(text);
  if (!Number.isInteger(status) || status < 200 || status > 599)
    throw new AppError('wrong-use', `--answer is a status from 200 to 599, not ${text}`);
  return status;
}

export async function calmService(service: string, names: readonly string[], options: CommonOptions): Promise<number> {
  const client = connect(options);
  let calmed = names.length;
  if (names.length === 0) calmed = (await client.calm(service)).calmed;
  else for (const name of names) await client.switchUpset(service, name, false);
  if (options.json === true) printJson({ calmed });
  else
    print(
      calmed === 0
        ? `${service} was calm already`
        : `${paint.good('calm')}  ${service}  ${renderCount(calmed, 'upset')} switched off`,
    );
  return EXIT.done;
}
