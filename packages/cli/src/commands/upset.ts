import type { UpsetDefinition } from '@upsetter/core';
import { AppError, parseDuration, parseShare } from '@upsetter/core/light';
import { EXIT } from '../exit.js';
import { renderCount } from '../output/render-count.js';
import { paint, print, printJson } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';

export interface UpsetOptions extends CommonOptions {
  readonly name?: string;
  readonly delay?: string;
  readonly answer?: string;
  readonly break?: string;
  readonly share?: string;
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
  const { delay, answer, share, name, break: broken } = options;
  if (delay === undefined && answer === undefined && broken === undefined)
    throw new AppError('wrong-use', 'an upset does something: give --delay, --answer or --break');
  if (delay !== undefined && parseDuration(delay) === null)
    throw new AppError('wrong-use', `--delay is a duration such as 800ms or 2s, not ${delay}`);
  if (share !== undefined && parseShare(share) === null)
    throw new AppError('wrong-use', `--share is a share from 0% to 100%, not ${share}`);
  const words = [
    delay === undefined ? '' : `delay ${delay}`,
    answer === undefined ? '' : `answer ${answer}`,
    broken === undefined ? '' : `break ${broken}`,
    share ?? '',
    operations.join(' '),
  ];
  return {
    upset: name ?? words.filter((word) => word !== '').join(', '),
    ...(operations.length === 0 ? {} : { of: [...operations] }),
    ...(share === undefined ? {} : { share }),
    ...(delay === undefined ? {} : { delay }),
    ...(broken === undefined ? {} : { break: readBreak(broken) }),
    ...(answer === undefined
      ? {}
      : { answer: { status: readStatus(answer), problem: { title: `Upset: ${name ?? answer}` } } }),
  };
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
