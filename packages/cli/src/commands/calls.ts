import type { CallSummary } from '@upsetter/core/wire';
import { EXIT } from '../exit.js';
import { renderAnsweredBy, renderCallLine, renderCalls, shortId } from '../output/render-call.js';
import { renderCallbacks } from '../output/render-callbacks.js';
import { renderFindings } from '../output/render-findings.js';
import { renderWhy } from '../output/render-why.js';
import { paint, print, printJson } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';

export interface CallsOptions extends CommonOptions {
  readonly follow?: boolean;
  readonly strays?: boolean;
  readonly findings?: boolean;
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
    findings: options.findings,
    limit: Number(options.limit ?? 30),
  });
  if (options.json === true) printJson(calls);
  else if (calls.length === 0) print(describeNone(options));
  else print(renderCalls([...calls].reverse()));
  return EXIT.done;
}

const MOST_TOLD = 10_000;

/** Prints calls as they are completed, until interrupted. With --json: one object a line. */
async function followCalls(service: string | undefined, options: CallsOptions): Promise<number> {
  const ended = new AbortController();
  process.once('SIGINT', () => ended.abort());
  process.once('SIGTERM', () => ended.abort());
  const told = new Set<string>();
  for await (const { calls, missed } of connect(options).followCalls(ended.signal)) {
    if (missed > 0 && options.json !== true) print(paint.faint(`... ${missed} more came too fast to be told`));
    for (const call of calls) {
      // A call that led to callbacks comes again with each of their tries.
      if (call.state === 'in flight' || told.has(call.id) || !isWanted(call, service, options)) continue;
      told.add(call.id);
      if (told.size > MOST_TOLD) told.delete(told.values().next().value ?? '');
      print(options.json === true ? JSON.stringify(call) : renderCallLine(call));
    }
  }
  return EXIT.done;
}

function describeNone({ strays, findings }: CallsOptions): string {
  if (findings === true) return 'No call differs from its contract.';
  return strays === true ? 'No strays.' : 'No calls yet.';
}

function isWanted(call: CallSummary, service: string | undefined, options: CallsOptions): boolean {
  const { lane = call.lane, operation = call.operation, strays = false, findings = false } = options;
  return (
    (service ?? call.service) === call.service &&
    lane === call.lane &&
    operation === call.operation &&
    (!strays || call.stray) &&
    (!findings || call.findings > 0)
  );
}

export async function explainCall(id: string, options: CommonOptions): Promise<number> {
  const client = connect(options);
  const why = await client.why(id);
  const { findingList, callbackList } = await client.readCall(why.call.id);
  if (options.json === true) printJson({ ...why, findings: findingList, callbacks: callbackList });
  else {
    const { call } = why;
    print(
      `${paint.faint(shortId(call.id))}  ${call.method} ${call.url}  ${call.status ?? call.state}  ${renderAnsweredBy(call)}  ${paint.faint(`lane ${call.lane}, ${call.service} revision ${call.revision}`)}`,
    );
    print(renderWhy(why.why));
    if (findingList.length > 0) print(`\n${renderFindings(findingList)}`);
    if (callbackList.length > 0) print(`\n${renderCallbacks(callbackList)}`);
  }
  return EXIT.done;
}
