import type { WrittenCase } from './emit-operation.js';
import type { GatheredOperation } from './members.js';
import { showExpression } from './owner.js';

const NOT_FOUND = 404;

/**
 * What a session did not show of reads of one thing, but any other session may ask for: a thing that was only read while
 * it changed by itself is read again once it is settled; one that was only read in vain is there before it is removed.
 */
export function addSettledRow(cases: readonly WrittenCase[], gathered: GatheredOperation): readonly WrittenCase[] {
  const { operation, subject, members } = gathered;
  if (operation.method !== 'GET' || subject?.isPath !== true || subject.kind.singlePath !== null) return cases;
  const [only] = cases;
  const isInVain = members.every(({ row, heard }) => row === null && heard.exchange.status === NOT_FOUND);
  if (isInVain && only !== undefined && cases.length === 1 && only['when'] === undefined)
    return [
      { ...only, when: { row: { present: false } } },
      { case: 'found', answer: { status: 200, json: `\${${showExpression(subject.kind, 'row')}}` } },
    ];
  const changing = cases.find((item) => JSON.stringify(item['then'] ?? []).includes('"replace"'));
  if (changing === undefined || cases.some((item) => item['when'] === undefined)) return cases;
  const answer = JSON.stringify(changing['answer']).replaceAll(`let.${subject.kind.noun}`, subject.read);
  if (answer.includes('${let.')) return cases;
  return [...cases, { case: 'as it is', answer: JSON.parse(answer) }];
}
