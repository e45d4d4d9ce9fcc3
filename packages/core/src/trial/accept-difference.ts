import { isMap, isSeq } from 'yaml';
import type { AcceptedDifference } from '../definition/service-file.js';
import { TextEdit } from '../definition/text-edit.js';
import { AppError } from '../errors/app-error.js';

/** A service file that accepts a difference, with its reason, in a case or (null) in all of an operation. Fails with `operation-unknown` or `case-unknown`. */
export function acceptDifference(
  text: string,
  operation: string,
  caseName: string | null,
  accepted: AcceptedDifference,
): string {
  const edit = new TextEdit(text);
  const { document } = edit;
  const owner = document.getIn(['operations', operation]);
  if (!isMap(owner)) throw new AppError('operation-unknown', `there is no operation ${operation}`);
  const cases = owner.get('cases');
  const found =
    caseName === null
      ? owner
      : isSeq(cases)
        ? cases.items.find((item) => isMap(item) && item.get('case') === caseName)
        : undefined;
  if (!isMap(found)) throw new AppError('case-unknown', `${operation} has no case ${caseName}`);
  const list = found.get('accept');
  const node = document.createNode(accepted);
  if (isSeq(list)) {
    list.items = list.items.filter((item) => !(isMap(item) && item.get('at') === accepted.at));
    list.items.push(node);
  } else found.set('accept', document.createNode([accepted]));
  return edit.write();
}
