import { NO_JSON } from '../request/request-view.js';
import type { Evaluate } from './frame.js';

/** What `call.X` reads. Reading one named parameter of a group has its own closure, so that nothing is built for it. */
export interface CallMember {
  readonly whole: Evaluate;
  readonly named: ((name: string) => Evaluate) | null;
}

export const CALL_MEMBERS: Readonly<Record<string, CallMember>> = {
  method: single((frame) => frame.request.method),
  url: single((frame) => frame.request.target),
  origin: single((frame) => frame.request.origin()),
  id: single((frame) => frame.request.id),
  lane: single((frame) => frame.request.lane),
  text: single((frame) => frame.request.text()),
  at: single((frame) => new Date(frame.request.receivedAtMs).toISOString()),
  json: single((frame) => {
    const json = frame.request.json();
    return json === NO_JSON ? null : json;
  }),
  /** The body's own text; xpath() reads it without parsing it again. */
  xml: single(({ request }) => (request.xml().kind === 'document' ? request.text() : null)),
  path: {
    whole: ({ request }) => Object.fromEntries(request.paramNames.map((name, i) => [name, request.paramValues[i]])),
    named: (name) => (frame) => frame.request.param(name) ?? null,
  },
  query: {
    whole: (frame) => ({ ...frame.request.queries() }),
    named: (name) => (frame) => frame.request.query(name) ?? null,
  },
  headers: {
    whole: (frame) => frame.request.headers(),
    named: (name) => {
      const lower = name.toLowerCase();
      return (frame) => frame.request.header(lower) ?? null;
    },
  },
  cookies: {
    whole: (frame) => ({ ...frame.request.cookies() }),
    named: (name) => (frame) => frame.request.cookies()[name] ?? null,
  },
  client: {
    whole: ({ request }) => ({ address: request.clientAddress, certificate: request.clientCertificate }),
    named: (name) =>
      name === 'address'
        ? ({ request }) => request.clientAddress
        : name === 'certificate'
          ? ({ request }) => request.clientCertificate
          : () => null,
  },
  form: {
    whole: (frame) => ({ ...frame.request.form() }),
    named: (name) => (frame) => frame.request.form()[name] ?? null,
  },
};

/** Members of `call` that are still to come. */
export const CALL_MEMBERS_NOT_YET: readonly string[] = [];

function single(whole: Evaluate): CallMember {
  return { whole, named: null };
}
