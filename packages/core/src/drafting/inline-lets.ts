import { isJsonMap } from '../definition/json-map.js';
import type { CaseBody } from './draft-operation.js';

/** The answer of a body with what it names by `let` in its place: turns have no `let` of their own. */
export function inlineLets({ let: lets = {}, answer }: CaseBody): CaseBody['answer'] {
  let whole: unknown = answer;
  // Later ones may read earlier ones: the last goes first.
  for (const [name, template] of Object.entries(lets).reverse()) whole = putIn(whole, name, template);
  return whole as CaseBody['answer'];
}

function putIn(value: unknown, name: string, template: unknown): unknown {
  if (Array.isArray(value)) return value.map((item) => putIn(item, name, template));
  if (isJsonMap(value))
    return Object.fromEntries(Object.entries(value).map(([key, member]) => [key, putIn(member, name, template)]));
  if (typeof value !== 'string') return value;
  if (value === `\${let.${name}}`) return template;
  const expression = typeof template === 'string' ? /^\$\{([^{}]*)\}$/.exec(template)?.[1] : undefined;
  return expression === undefined
    ? value
    : value.replaceAll(new RegExp(`\\blet\\.${name}\\b`, 'g'), () => `(${expression})`);
}
