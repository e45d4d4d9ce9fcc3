import { type Draft, type DraftLevel, type DraftTrafficOptions, draftTraffic, type Exchange } from '../src/index.js';

/** One exchange of a test's session: `GET /lamps/L1?quay=north`, what was sent, and what came back. */
export interface HeardCall {
  readonly call: string;
  readonly sent?: unknown;
  readonly headers?: Readonly<Record<string, string>>;
  readonly status?: number;
  readonly json?: unknown;
  /** Headers of the answer. */
  readonly got?: Readonly<Record<string, string>>;
  /** Seconds after the call before; one, unless said. */
  readonly after?: number;
}

const START_MS = Date.UTC(2026, 2, 2, 9);
const MS_PER_SECOND = 1000;

/** The moment of the how-manieth call when each comes a second after the one before. */
export const momentOf = (index: number): string => new Date(START_MS + (index + 1) * MS_PER_SECOND).toISOString();

export function sessionOf(calls: readonly HeardCall[]): Exchange[] {
  let atMs = START_MS;
  return calls.map(({ call, sent, headers = {}, status = 200, json, got = {}, after = 1 }, index) => {
    const [method = '', target = ''] = call.split(' ');
    const [path = '', query = ''] = target.split('?');
    atMs += after * MS_PER_SECOND;
    const type = json === undefined ? [] : ['content-type', 'application/json'];
    return {
      index,
      startedAtMs: atMs,
      firstByteMs: 1,
      tookMs: 1,
      method,
      origin: 'http://127.0.0.1:4691',
      path,
      query: [...new URLSearchParams(query)],
      requestHeaders: [
        ...(sent === undefined ? [] : ['content-type', 'application/json']),
        ...Object.entries(headers).flat(),
      ],
      requestBody: sent === undefined ? null : JSON.stringify(sent),
      status,
      responseHeaders: [...type, ...Object.entries(got).flat()],
      contentType: json === undefined ? '' : 'application/json',
      body: json === undefined ? null : { kind: 'text', content: JSON.stringify(json) },
      trouble: null,
    };
  });
}

export function draftSession(
  calls: readonly HeardCall[],
  level: DraftLevel = 'alive',
  more: Partial<DraftTrafficOptions> = {},
): Draft {
  return draftTraffic(sessionOf(calls), { service: 'lamps', origin: null, port: null, level, ...more });
}
