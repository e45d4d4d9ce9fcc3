import { EXIT } from '../exit.js';
import { renderAnsweredBy, renderCallLine, renderCalls, shortId } from '../output/render-call.js';
import { renderWhy } from '../output/render-why.js';
import { paint, print, printJson } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';

export interface CallsOptions extends CommonOptions {
  readonly follow?: boolean;
  readonly strays?: boolean;
  readonly lane?: string;
  readonly operation?: string;
  readonly limit?: string;
}

export async function showCalls(service: string | undefined, options: CallsOptions): Promise<number> {
  if (options.follow === true) return followCalls(service, options);
  const client = connect(options);
  if (service !== undefined) await client.readService(service);
  const { calls } = await client.listCalls({
    service,
    operation: options.operation,
    lane: options.lane,
    strays: options.strays,
    limit: Number(options.limit ?? 30),
  });
  if (options.json === true) printJson(calls);
  else if (calls.length === 0) print(options.strays === true ? 'No strays.' : 'No calls yet.');
  else print(renderCalls([...calls].reverse()));
  return EXIT.done;
}

/** Prints calls as they are completed, until interrupted. With --json: one object a line. */
async function followCalls(service: string | undefined, options: CallsOptions): Promise<number> {
  const ended = new AbortController();
  process.once('SIGINT', () => ended.abort());
  process.once('SIGTERM', () => ended.abort());
  for await (const { calls, missed } of connect(options).followCalls(ended.signal)) {
    if (missed > 0 && options.json !== true) print(paint.faint(`... ${missed} more came too fast to be told`));
    for (const call of calls) {
      const isWanted =
        (service === undefined || call.service === service) &&
        (options.lane === undefined || call.lane === options.lane);
      const isOfOperation = options.operation === undefined || call.operation === options.operation;
      if (call.state === 'in flight' || !isWanted || !isOfOperation || (options.strays === true && !call.stray))
        continue;
      print(options.json === true ? JSON.stringify(call) : renderCallLine(call));
    }
  }
  return EXIT.done;
}

export async function explainCall(id: string, options: CommonOptions): Promise<number> {
  const why = await connect(options).why(id);
  if (options.json === true) printJson(why);
  else {
    const { call } = why;
    print(
      `${paint.faint(shortId(call.id))}  ${call.method} ${call.url}  ${call.status ?? call.state}  ${renderAnsweredBy(call)}  ${paint.faint(`lane ${call.lane}, ${call.service} revision ${call.revision}`)}`,
    );
    print(renderWhy(why.why));
  }
  return EXIT.done;
}
