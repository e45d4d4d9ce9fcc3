import { AppError } from '@upsetter/core/light';
import type { TryResult } from '@upsetter/core/wire';
import { EXIT } from '../exit.js';
import { renderWhy } from '../output/render-why.js';
import { paint, print, printJson } from '../output/terminal.js';
import { type CommonOptions, connect } from './connect.js';
import { readInput } from './read-input.js';

export interface TryOptions extends CommonOptions {
  readonly header?: readonly string[];
  readonly body?: string;
  readonly lane?: string;
  readonly certificate?: string;
}

/** Sends one call to a mock; shows the answer and why. `--body @FILE` reads the body from a file. */
export async function tryOne(service: string, method: string, path: string, options: TryOptions): Promise<number> {
  const body = options.body?.startsWith('@') === true ? await readInput(options.body.slice(1)) : (options.body ?? null);
  const headers = Object.fromEntries((options.header ?? []).map(parseHeader));
  const type = headers['content-type'] === undefined ? typeOf(body ?? '') : null;
  const result = await connect(options).tryCall(service, {
    method: method.toUpperCase(),
    path,
    headers: type === null ? headers : { ...headers, 'content-type': type },
    body,
    lane: options.lane ?? 'main',
    certificate: options.certificate ?? null,
  });
  if (options.json === true) printJson(result);
  else print(renderTried(result));
  return EXIT.done;
}

function parseHeader(text: string): [string, string] {
  const colon = text.indexOf(':');
  if (colon <= 0) throw new AppError('wrong-use', `--header is written 'name: value', not ${JSON.stringify(text)}`);
  return [text.slice(0, colon).trim().toLowerCase(), text.slice(colon + 1).trim()];
}

function renderTried(result: TryResult): string {
  const head = `${paint.strong(String(result.status))}  ${paint.faint(`${result.tookMs} ms`)}`;
  const headers = result.headers.flatMap((name, i) =>
    i % 2 === 0 ? [paint.faint(`${name.toLowerCase()}: ${result.headers[i + 1] ?? ''}`)] : [],
  );
  const why = result.why === null ? [] : ['', `${paint.strong('why')}  ${renderWhy(result.why)}`];
  // The problem document of a stray says the same as why does, in more lines.
  const body = result.call?.stray === true ? [] : ['', prettify(result.body)];
  return [head, ...headers, ...body, ...why].join('\n');
}

function prettify(body: string): string {
  try {
    return JSON.stringify(JSON.parse(body), null, 2);
  } catch {
    return body === '' ? paint.faint('(no body)') : body;
  }
}

/** What a body looks like; null: it tells nothing. */
function typeOf(body: string): string | null {
  if (/^\s*[[{]/.test(body)) return 'application/json';
  if (!/^\s*</.test(body)) return null;
  return body.includes('http://www.w3.org/2003/05/soap-envelope') ? 'application/soap+xml' : 'text/xml';
}
