import Negotiator from 'negotiator';
import type { Answer } from '../definition/answer.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { CompiledAnswer } from './compiled-answer.js';
import type { RenderedAnswer } from './rendered-answer.js';

type CompileOne = (answer: Answer, path: readonly PathKey[]) => CompiledAnswer;

const NOT_ACCEPTABLE = 406;

/**
 * `as`: the body whose media type the caller likes best (RFC 9110, 12.5.1), the first one of the file where it does not
 * mind. Where none will do: a 406 that says what there is.
 */
export function compileNegotiated(
  { as = {}, ...others }: Answer,
  path: readonly PathKey[],
  compileOne: CompileOne,
): CompiledAnswer {
  const vary = { vary: 'accept', ...others.headers };
  const choices = Object.entries(as).map(([type, body]) => ({
    type,
    bare: type.split(';', 1)[0]?.trim() ?? type,
    answer: compileOne(
      { ...others, headers: { ...vary, 'content-type': type }, [formOf(type, body)]: body } as Answer,
      [...path, 'as', type],
    ),
  }));
  const types = choices.map(({ bare }) => bare);
  const none: RenderedAnswer = {
    status: NOT_ACCEPTABLE,
    headers: ['content-type', 'application/problem+json', 'vary', 'accept'],
    body: JSON.stringify({
      type: 'about:blank',
      title: 'Not acceptable',
      status: NOT_ACCEPTABLE,
      detail: `there is ${types.join(', ')}`,
    }),
  };
  return {
    constant: null,
    render: (frame) => {
      const accept = frame.request.header('accept');
      const headers = accept === undefined ? {} : { accept };
      const liked = new Negotiator({ headers }).mediaType(types);
      const chosen = choices.find(({ bare }) => bare === liked);
      return chosen === undefined ? none : (chosen.answer.constant ?? chosen.answer.render(frame));
    },
  };
}

/** How a body of a media type is written down. */
function formOf(type: string, body: unknown): 'json' | 'xml' | 'html' | 'text' {
  if (/^(application|text)\/([\w.-]+\+)?json\b/i.test(type) || typeof body !== 'string') return 'json';
  if (/^text\/html\b|^application\/xhtml\+xml\b/i.test(type)) return 'html';
  return /^(application|text)\/([\w.-]+\+)?xml\b/i.test(type) ? 'xml' : 'text';
}
