import { isMap, isSeq, parseDocument } from 'yaml';
import { AppError } from '../errors/app-error.js';
import { TextEdit } from './text-edit.js';

/**
 * The file with one case's answer replaced; comments and everything else stay as they are.
 * `answer` is the YAML (or JSON) of the new answer. Fails with `operation-unknown`, `case-unknown` or `file-refused`.
 */
export function replaceAnswer(text: string, operation: string, caseName: string, answer: string): string {
  const edit = new TextEdit(text);
  const { document } = edit;
  const cases = document.getIn(['operations', operation, 'cases']);
  if (!isSeq(cases)) throw new AppError('operation-unknown', `there is no operation ${operation}`);
  const at = cases.items.findIndex((item) => isMap(item) && item.get('case') === caseName);
  if (at < 0) throw new AppError('case-unknown', `${operation} has no case ${caseName}`);
  const edited = parseDocument(answer);
  const [mistake] = edited.errors;
  if (mistake !== undefined) {
    const { line, col } = mistake.linePos?.[0] ?? { line: 1, col: 1 };
    throw new AppError('file-refused', 'the answer is not valid YAML', {
      problems: [{ message: mistake.message.split('\n')[0] ?? '', path: 'answer', line, column: col }],
    });
  }
  document.setIn(['operations', operation, 'cases', at, 'answer'], edited.contents);
  return edit.write();
}

/** The YAML of cases' answers, as they stand in the file; null where there is no such case. The file is read once. */
export function readAnswers(text: string): (operation: string, caseName: string) => string | null {
  const document = parseDocument(text, { uniqueKeys: false });
  return (operation, caseName) => {
    const cases = document.getIn(['operations', operation, 'cases']);
    if (!isSeq(cases)) return null;
    const found = cases.items.find((item) => isMap(item) && item.get('case') === caseName);
    if (!isMap(found)) return null;
    const answer = parseDocument('');
    answer.contents = found.get('answer', true) as never;
    return answer.toString({ lineWidth: 0 });
  };
}
