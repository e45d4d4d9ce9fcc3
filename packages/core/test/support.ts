import {
  type CompiledService,
  chooseCase,
  commitCall,
  type Decision,
  type Explanation,
  explainCall,
  findOperation,
  Lanes,
  loadService,
  RequestView,
} from '../src/index.js';

/** What a test sends: method and target, headers (names in lower case), a body as text or as JSON. */
export interface Sent {
  readonly headers?: Readonly<Record<string, string>>;
  readonly body?: string;
  readonly json?: unknown;
  readonly lane?: string;
}

export const NOW_MS = Date.UTC(2026, 2, 2, 9, 30);

export function makeRequest(line: string, sent: Sent = {}): RequestView {
  const [method = '', target = ''] = line.split(' ');
  const request = new RequestView(
    '01900000-0000-7000-8000-000000000001',
    method,
    target,
    Object.entries(sent.headers ?? {}).flat(),
    NOW_MS,
  );
  const body = sent.json === undefined ? sent.body : JSON.stringify(sent.json);
  request.body = body === undefined ? null : new TextEncoder().encode(body);
  request.lane = sent.lane ?? 'main';
  return request;
}

/** The compiled service of a file that must be without mistakes. */
export function load(text: string): CompiledService {
  const loaded = loadService(text);
  if (loaded.kind === 'refused')
    throw new Error(loaded.problems.map((problem) => `${problem.line}: ${problem.message}`).join('\n'));
  return loaded.service;
}

/** `line:column message` of each mistake of a file that must be refused. */
export function mistakes(text: string): string[] {
  const loaded = loadService(text);
  return loaded.kind === 'loaded'
    ? []
    : loaded.problems.map((problem) => `${problem.line}:${problem.column} ${problem.message}`);
}

/** A service with one operation, from its cases as YAML (indented by nothing). */
export function serviceOf(on: string, cases: string): string {
  const indented = cases
    .trim()
    .split('\n')
    .map((line) => `      ${line}`);
  return [
    'upsetter: 1',
    'service: lighthouse',
    'operations:',
    '  asked:',
    `    on: ${on}`,
    '    cases:',
    ...indented,
    '',
  ].join('\n');
}

/** The name of the case that would answer; null for a stray. */
export function caseFor(service: CompiledService, line: string, sent: Sent = {}): string | null {
  const request = makeRequest(line, sent);
  const destination = findOperation(service, request);
  return destination.kind === 'operation' ? (chooseCase(destination.operation, request, null)?.name ?? null) : null;
}

/** What the call comes to. */
export function decide(service: CompiledService, line: string, sent: Sent = {}, lanes = new Lanes('seed')): Decision {
  const request = makeRequest(line, sent);
  const destination = findOperation(service, request);
  if (destination.kind !== 'operation') return { kind: 'stray', found: null };
  return commitCall(service, destination.operation, request, lanes.get(request.lane), NOW_MS);
}

/** The answer's body, as JSON. */
export function answerJson(
  service: CompiledService,
  line: string,
  sent: Sent = {},
  lanes = new Lanes('seed'),
): unknown {
  const decision = decide(service, line, sent, lanes);
  if (decision.kind !== 'answered') throw new Error(`not answered: ${JSON.stringify(decision)}`);
  const { body } = decision.answer;
  return JSON.parse(typeof body === 'string' ? body : new TextDecoder().decode(body ?? undefined));
}

export function explain(service: CompiledService, line: string, sent: Sent = {}): Explanation {
  return explainCall(service, makeRequest(line, sent), null);
}

/** The value of one expression on a call. */
export function evaluate(expression: string, line = 'GET /x', sent: Sent = {}): unknown {
  const service = load(
    serviceOf('"* /{rest...}"', `- case: only\n  answer: { json: { value: ${JSON.stringify(`\${${expression}}`)} } }`),
  );
  const decision = decide(service, line, sent);
  if (decision.kind === 'failed') return `failed: ${decision.reason}`;
  return (answerJson(service, line, sent) as { value: unknown }).value;
}
