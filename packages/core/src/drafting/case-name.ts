import type { CaseClass } from './classes.js';
import { eachLeaf } from './leaves.js';
import type { Condition } from './tell-apart.js';
import { uniqueName } from './unique-name.js';

const LONGEST = 40;

/** A short name from what distinguishes the case: the values it asks for, what it refuses, what it does. Unique among those taken. */
export function nameCase(
  answer: CaseClass,
  conditions: readonly Condition[],
  isGeneral: boolean,
  taken: Set<string>,
): string {
  const base = (isGeneral ? nameByMeaning(answer, conditions) : nameByValues(answer, conditions))
    .trim()
    .slice(0, LONGEST)
    .trim();
  return uniqueName(base === '' ? 'empty' : base, taken);
}

function nameByValues({ status }: CaseClass, conditions: readonly Condition[]): string {
  const words = wordsOf(conditions);
  if (words.trim() !== '') return words;
  if (conditions.length > 0 && conditions.some(({ comparison }) => comparison === '')) return 'empty';
  return status < 400 ? 'as heard' : String(status);
}

/** The values that equality conditions ask for. */
export function wordsOf(conditions: readonly Condition[]): string {
  return conditions
    .flatMap(({ comparison }) =>
      comparison === null || typeof comparison === 'object' || typeof comparison === 'boolean'
        ? []
        : [String(comparison)],
    )
    .join(' ');
}

function nameByMeaning({ status, body }: CaseClass, conditions: readonly Condition[]): string {
  const words = wordsOf(conditions.filter(({ place }) => !place.startsWith('row')));
  if (status >= 400) return reasonOf(body.answer) ?? (words === '' ? String(status) : `${words} ${status}`);
  if (words !== '') return words;
  const steps = JSON.stringify(body.steps);
  if (steps.includes('"insert"')) return 'created';
  if (steps.includes('"remove"')) return 'removed';
  if (/"(replace|change)"|\$\{let\./.test(steps)) return 'changed';
  const text = JSON.stringify(body.answer);
  if (/"\$\{let\.\w+\}"/.test(text)) return 'listed';
  return /\$\{row/.test(text) ? 'found' : 'usual';
}

/** What a refusal says, without the values in it: `Berth ${...} is taken` -> `berth is taken`. */
function reasonOf(answer: Readonly<Record<string, unknown>>): string | null {
  const texts: string[] = [];
  eachLeaf(answer['json'], (value) => {
    if (typeof value === 'string') texts.push(value);
  });
  const text = texts.find((value) => value.includes(' ')) ?? texts[0];
  if (text === undefined) return null;
  const words = text
    .replaceAll(/\$\{[^}]*\}/g, '')
    .replaceAll(/[^A-Za-z0-9' -]+/g, ' ')
    .replaceAll(/\s+/g, ' ')
    .trim();
  return words === '' ? null : words[0]?.toLowerCase() + words.slice(1);
}
