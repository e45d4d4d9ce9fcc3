import {
  type AccessRefusal,
  buildStrayProblem,
  type CallFinding,
  explainCall,
  type FaultRole,
  type RenderedAnswer,
  renderProblemFault,
} from '@upsetter/core';
import { preflightHeaders } from '../wire/cors-headers.js';
import type { Call } from './call.js';

const SERVER_ERRORS = 500;
const PROBLEM_TYPE = 'application/problem+json';

/** The 404 of a stray, with what came closest. */
export function buildStrayAnswer(call: Call): RenderedAnswer {
  const explanation = explainCall(call.live.compiled, call.request, call.record.found);
  const problem = buildStrayProblem(explanation, call.live.compiled, call.request);
  if (!call.isSoap) return answerProblem(call, 404, problem);
  const envelope = call.request.envelope();
  const role = envelope.kind === 'broken' ? envelope.role : 'sender';
  return renderProblemFault(call.request, role, { ...problem, status: undefined });
}

/** The 405 of a path that is known with other methods. */
export function buildOtherMethodAnswer(call: Call, allow: readonly string[]): RenderedAnswer {
  const list = allow.join(', ');
  const detail = `${call.request.method} ${call.request.path}: the path has ${list}`;
  return answerProblem(
    call,
    405,
    describe(call, 405, 'method-unknown', 'The path is known, but not with this method', detail),
    ['allow', list],
  );
}

export function buildTooLargeAnswer(call: Call, maxBytes: number): RenderedAnswer {
  const detail = `The body of ${call.request.method} ${call.request.path} is over the limit of ${maxBytes} bytes (raise it with --max-body)`;
  return answerProblem(call, 413, describe(call, 413, 'too-large', 'The body is over the limit', detail), [
    'connection',
    'close',
  ]);
}

/** The refusal of a call that may not be made, with how it may. */
export function buildAccessProblem(call: Call, { status, reason, challenge }: AccessRefusal): RenderedAnswer {
  const title = status === 403 ? 'The caller may not do this' : 'The caller is not known';
  const headers = status === 401 ? ['www-authenticate', challenge] : [];
  return answerProblem(call, status, describe(call, status, 'access-refused', title, reason), headers);
}

/** The refusal of a call that is not as the contract says, each difference named. */
export function buildContractProblem(call: Call, status: number, findings: readonly CallFinding[]): RenderedAnswer {
  const [first] = findings;
  const detail = `${first?.at} ${first?.message}${findings.length > 1 ? ` (and ${findings.length - 1} more)` : ''}`;
  const listed = findings.map(({ at, message, rule }) => ({ at, message, rule }));
  return answerProblem(call, status, {
    ...describe(call, status, 'contract-broken', 'The call is not as the contract says', detail),
    findings: listed,
  });
}

export function buildExpressionProblem(call: Call, reason: string): RenderedAnswer {
  return answerProblem(
    call,
    500,
    describe(call, 500, 'expression-failed', 'An expression of the service file failed on this call', reason),
  );
}

export function buildInternalProblem(
  call: Call,
  detail = 'The service log says more; the service goes on',
): RenderedAnswer {
  return answerProblem(call, 500, describe(call, 500, 'internal', 'The mock could not answer', detail));
}

/** OPTIONS, from the operations there are; a preflight asks for one method and some headers, and gets what `cors` says. */
export function buildOptionsAnswer(call: Call): RenderedAnswer {
  const allow = call.allow ?? ['OPTIONS'];
  const headers = ['allow', allow.join(', ')];
  const wantedMethod = call.request.header('access-control-request-method');
  const rules = call.live.compiled.cors;
  const origin = call.head.origin;
  if (wantedMethod === undefined || origin === null || rules?.allows(origin) !== true)
    return { status: 204, headers, body: null };
  const asked = { method: wantedMethod, headers: call.request.header('access-control-request-headers') };
  return { status: 204, headers: [...headers, ...preflightHeaders(asked, allow, rules)], body: null };
}

function describe(call: Call, status: number, code: string, title: string, detail: string): Record<string, unknown> {
  return {
    type: 'about:blank',
    title,
    status,
    code,
    detail,
    service: call.live.compiled.name,
    call: call.request.id,
    lane: call.request.lane,
  };
}

function answerProblem(
  call: Call,
  status: number,
  body: Record<string, unknown>,
  headers: readonly string[] = [],
): RenderedAnswer {
  if (call.isSoap) {
    const role: FaultRole = status < SERVER_ERRORS ? 'sender' : 'receiver';
    return renderProblemFault(call.request, role, { ...body, status: undefined });
  }
  return { status, headers: ['content-type', PROBLEM_TYPE, ...headers], body: JSON.stringify(body) };
}
