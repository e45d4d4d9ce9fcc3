import type { RenderedAnswer } from '../answer/rendered-answer.js';
import { PAGE_MEMBERS, TROUBLE_MEMBERS } from '../resource/findings.js';
import type { NamesInScope } from './compile-context.js';
import type { Evaluate, Frame } from './frame.js';

/** What `state.x`, `data.x`, `let.x` and `answer.x` read: the names there are, and the reader of one of them. */
export interface ScopeRoot {
  readonly names: (scope: NamesInScope) => readonly string[];
  readonly read: (name: string, scope: NamesInScope) => Evaluate;
  /** What to say when there is no such name. */
  readonly unknown: (name: string) => string;
  /** What to say when there are none at all. */
  readonly none: string;
}

const ANSWER_MEMBERS: Readonly<Record<string, (answer: RenderedAnswer, frame: Frame) => unknown>> = {
  status: (answer) => answer.status,
  text: (answer) => bodyText(answer),
  json: (answer) => parseBody(answer),
  headers: (answer) => collectHeaders(answer),
};

export const SCOPE_ROOTS: Readonly<Record<string, ScopeRoot>> = {
  state: {
    names: (scope) => scope.state,
    read: (name) => (frame) => {
      const value = frame.lane.data.readState(name, frame.start);
      // Keyed values change in place from call to call: what is read as a whole is a copy.
      return value !== null && typeof value === 'object' && !Array.isArray(value) ? { ...value } : value;
    },
    unknown: (name) => `the state \`${name}\` is not declared`,
    none: 'the service file declares no `state`',
  },
  data: {
    names: (scope) => scope.datasets,
    read: (name) => (frame) => frame.lane.data.rows(name, frame.start)?.list() ?? [],
    unknown: (name) => `there is no dataset \`${name}\``,
    none: 'the service file has no `datasets`',
  },
  vars: {
    names: (scope) => [...scope.vars.keys()],
    read: (name, scope) => {
      const value = scope.vars.get(name) ?? null;
      return () => value;
    },
    unknown: (name) => `there is no variable \`${name}\``,
    none: 'the service file has no `variables`',
  },
  let: {
    names: (scope) => scope.lets,
    read: (name, scope) => {
      const at = scope.lets.lastIndexOf(name);
      return (frame) => frame.lets[at] ?? null;
    },
    unknown: (name) => `\`let\` has no \`${name}\` before this place`,
    none: 'this case has no `let` before this place',
  },
  answer: {
    names: (scope) => (scope.answer ? Object.keys(ANSWER_MEMBERS) : []),
    read: (name) => {
      const member = ANSWER_MEMBERS[name];
      return (frame) => (member === undefined || frame.answer === null ? null : member(frame.answer, frame));
    },
    unknown: (name) => `an answer has no \`${name}\``,
    none: '`answer` can be read under `then` only',
  },
  page: {
    names: (scope) => (scope.resource ? PAGE_MEMBERS : []),
    read: (name) => (frame) => (frame.findings?.page as Readonly<Record<string, unknown>> | null)?.[name] ?? null,
    unknown: (name) => `a page has no \`${name}\``,
    none: '`page` can be read in the answers of a resource only',
  },
  trouble: {
    names: (scope) => (scope.resource ? TROUBLE_MEMBERS : []),
    read: (name) => (frame) => (frame.findings?.trouble as Readonly<Record<string, unknown>> | null)?.[name] ?? null,
    unknown: (name) => `a trouble has no \`${name}\``,
    none: '`trouble` can be read in the answers of a resource only',
  },
};

const DECODER = new TextDecoder();

function bodyText({ body }: RenderedAnswer): string {
  if (body === null) return '';
  return typeof body === 'string' ? body : DECODER.decode(body);
}

function parseBody(answer: RenderedAnswer): unknown {
  try {
    return JSON.parse(bodyText(answer));
  } catch {
    return null;
  }
}

function collectHeaders({ headers }: RenderedAnswer): Record<string, string> {
  const found: Record<string, string> = {};
  for (let i = 0; i < headers.length; i += 2) {
    const name = headers[i]?.toLowerCase() ?? '';
    const value = headers[i + 1] ?? '';
    found[name] = Object.hasOwn(found, name) ? `${found[name]}, ${value}` : value;
  }
  return found;
}
