import { EXIT } from '../exit.js';
import { paint, print, printJson } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';
import { readInput } from './read-input.js';

export interface AnswerOptions extends CommonOptions {
  readonly with?: string;
}

/** Gives a call a case of its own; the very next call like it is answered by it. */
export async function answerCall(id: string, options: AnswerOptions): Promise<number> {
  const given = options.with?.startsWith('@') === true ? await readInput(options.with.slice(1)) : options.with;
  const answered = await connect(options).answerCall(id, given);
  if (options.json === true) printJson(answered);
  else {
    const { service, operation, case: name, revision } = answered;
    print(`${paint.strong(`${operation} / ${name}`)} of ${service} answers such calls now (revision ${revision})`);
    print(paint.faint(`upsetter show ${service} --file shows it`));
  }
  return EXIT.done;
}
