import type { Answer } from '../definition/answer.js';
import type { NamedFiles } from '../definition/answer-forms.js';
import type { PathKey } from '../definition/yaml-source.js';
import { fail } from '../expression/frame.js';
import { toText } from '../expression/value.js';
import { compileText, type TextScope } from './compile-text.js';
import type { CompiledAnswer } from './compiled-answer.js';

/** An answer with one of several files, whichever the call names: each is compiled as if it were the only one. */
export function compileNamedFile(
  answer: Answer,
  { name, choices }: NamedFiles,
  path: readonly PathKey[],
  scope: TextScope,
  compile: (own: Answer) => CompiledAnswer,
): CompiledAnswer {
  const text = compileText(name, [...path, 'file'], scope);
  const answers = new Map(
    Object.entries(choices).map(([own, file]) => [own, compile({ ...answer, file: { name: own, ...file } as never })]),
  );
  const known = [...answers.keys()].slice(0, 10).join(', ');
  return {
    constant: null,
    render: (frame) => {
      const wanted = text.kind === 'constant' ? text.text : toText(text.evaluate(frame));
      const own = answers.get(wanted) ?? fail(`there is no file ${wanted} beside the service file; there is ${known}`);
      return own.constant ?? own.render(frame);
    },
  };
}
