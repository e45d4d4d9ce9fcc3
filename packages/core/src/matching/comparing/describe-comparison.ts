import type { Comparison } from '../../definition/comparison.js';
import { parseTemplate } from '../../expression/template.js';

/** A comparison in words: `"N7"`, `like N*`, `from 2, to 5`. */
export function describeComparison(comparison: Comparison): string {
  const words: string[] = [];
  const { is, isnt, in: list, has, size, fits, not, every, present, caseless } = comparison;
  if (is !== undefined) words.push(JSON.stringify(is));
  if (isnt !== undefined) words.push(`not ${JSON.stringify(isnt)}`);
  if (list !== undefined) words.push(`in ${JSON.stringify(list)}`);
  for (const name of ['like', 'regex', 'starts', 'ends'] as const)
    if (comparison[name] !== undefined) words.push(`${name} ${comparison[name]}`);
  if (has !== undefined) words.push(`has ${JSON.stringify(has)}`);
  if (size !== undefined) words.push(`size ${describeComparison(size)}`);
  for (const name of ['above', 'below', 'from', 'to'] as const)
    if (comparison[name] !== undefined) words.push(`${name} ${comparison[name]}`);
  if (fits !== undefined) words.push(`fits ${shorten(JSON.stringify(fits))}`);
  if (not !== undefined) words.push(`not (${describeComparison(not)})`);
  if (every !== undefined) words.push(`every ${describeComparison(every)}`);
  if (present !== undefined) words.push(present ? 'present' : 'absent');
  return `${words.join(', ')}${caseless === true ? ' (in any case)' : ''}`;
}

const LONGEST = 80;

function shorten(text: string): string {
  return text.length > LONGEST ? `${text.slice(0, LONGEST)}...` : text;
}

/** Whether it compares with what an expression gives. */
export function hasExpression({ is, isnt, in: list, has, size, not, every }: Comparison): boolean {
  return (
    [is, isnt, has, ...(list ?? [])].some(isExpression) ||
    [size, not, every].some((own) => own !== undefined && hasExpression(own))
  );
}

function isExpression(wanted: unknown): boolean {
  return typeof wanted === 'string' && wanted.includes('${') && parseTemplate(wanted).kind === 'template';
}
