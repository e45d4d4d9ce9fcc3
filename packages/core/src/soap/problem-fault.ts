import type { RenderedAnswer } from '../answer/rendered-answer.js';
import type { RequestView } from '../request/request-view.js';
import { escapeMarkup } from '../xml/markup-text.js';
import { answerWithEnvelope, renderEnvelope } from './render-envelope.js';
import { type FaultRole, renderFault, statusOfFault } from './render-fault.js';

const PROBLEM_NAMESPACE = 'urn:ietf:rfc:7807';

/** A problem told as callers of SOAP read it: a fault whose detail is the problem in its own XML form (RFC 9457, Appendix B). */
export function renderProblemFault(
  request: RequestView,
  role: FaultRole,
  problem: Readonly<Record<string, unknown>>,
): RenderedAnswer {
  const version = request.soapVersion();
  const { title, detail } = problem as { readonly title?: string; readonly detail?: string };
  const fault = {
    role,
    subcode: null,
    reason: [title, detail].filter((text) => text !== undefined).join(': '),
    actor: null,
    detail: `<problem xmlns="${PROBLEM_NAMESPACE}">${renderMembers(problem)}</problem>`,
  };
  return answerWithEnvelope(
    version,
    statusOfFault(version, role),
    [],
    renderEnvelope(version, '', renderFault(version, fault)),
  );
}

function renderMembers(members: object): string {
  return Object.entries(members)
    .filter(([, value]) => value !== undefined)
    .map(([name, value]) => `<${name}>${renderValue(value)}</${name}>`)
    .join('');
}

function renderValue(value: unknown): string {
  if (Array.isArray(value)) return value.map((item) => `<i>${renderValue(item)}</i>`).join('');
  return value !== null && typeof value === 'object' ? renderMembers(value) : escapeMarkup(String(value));
}
