import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import type { Instance } from './explain-source.js';
import { memberExpression, quote } from './leaves.js';

/** A number that expressions can read, with its value in each instance. */
interface Term {
  readonly text: string;
  readonly name: string;
  readonly values: readonly number[];
  readonly kind: 'scalar' | 'size' | 'sum' | 'count';
}

interface Formula {
  readonly text: string;
  readonly values: readonly number[];
  /** How much speaks for it besides that it holds. */
  readonly score: number;
}

/** Terms in one search: pairs of them are tried. */
const MOST_TERMS = 60;
/** Fields of more values than this do not sort items. */
const MOST_VALUES = 5;
const ENOUGH_SCORE = 2;
const WORKED_OUT =
  /(total|sum|amount|price|cost|due|change|balance|left|remain|rest|net|gross|stock|free|avail|credit|points|count|qty|quantity|number|size)|^(no|nr|position|index|line|seq|rank)$/i;

/**
 * A number that is worked out from others: a sum over a list, a product, a sum or difference of two, one more than a
 * list has. Null when nothing does for all instances, or what does may do so by chance.
 */
export function explainComputed(
  targets: readonly unknown[],
  instances: readonly Instance[],
  member: string,
): string | null {
  if (!targets.every((target) => typeof target === 'number' && Number.isFinite(target))) return null;
  const wanted = targets as readonly number[];
  const terms = findTerms(instances);
  const seen = new Set(wanted.map((target, i) => JSON.stringify([target, ...terms.map(({ values }) => values[i])])))
    .size;
  const isVaried = new Set(wanted).size > 1;
  const evidence = (isVaried ? 1 : 0) + (isVaried && seen > 2 ? 1 : 0) + (WORKED_OUT.test(member) ? 1 : 0);
  let best: Formula | null = null;
  for (const formula of formulasOf(terms, wanted, member)) {
    if (evidence + formula.score <= ENOUGH_SCORE || (best !== null && formula.score <= best.score)) continue;
    if (formula.values.every((value, i) => isClose(value, wanted[i] as number))) best = formula;
  }
  if (best === null) return null;
  const isExact = best.values.every((value, i) => value === wanted[i]);
  return `\${${isExact ? best.text : `round(${best.text}, ${digitsOf(wanted)})`}}`;
}

function* formulasOf(terms: readonly Term[], wanted: readonly number[], member: string): Generator<Formula> {
  for (const term of terms) {
    if (term.kind === 'sum') yield { text: term.text, values: term.values, score: 2 };
    if (term.kind === 'count') yield { ...term, score: isNamed(term, member) ? 2 : 1 };
    if (term.kind === 'size')
      yield { text: `${term.text} + 1`, values: term.values.map((value) => value + 1), score: 1 };
  }
  const first = wanted[0] as number;
  for (const [i, a] of terms.entries()) {
    for (const [j, b] of terms.entries()) {
      if (i === j) continue;
      const [x, y] = [a.values[0] as number, b.values[0] as number];
      const own = isNamed(a, member) ? 1.5 : 0;
      if (i < j && isClose(x * y, first) && isUsed(a, 1) && isUsed(b, 1))
        yield { text: `${a.text} * ${b.text}`, values: combine(a, b, (p, q) => p * q), score: 1.2 };
      if (isUsed(b, 0) && isClose(x + y, first) && (i < j || own > 0))
        yield { text: `${a.text} + ${b.text}`, values: combine(a, b, (p, q) => p + q), score: 0.5 + own };
      if (isUsed(b, 0) && isClose(x - y, first))
        yield { text: `${a.text} - ${b.text}`, values: combine(a, b, (p, q) => p - q), score: 0.5 + own };
    }
  }
}

function combine(a: Term, b: Term, of: (x: number, y: number) => number): number[] {
  return a.values.map((value, i) => of(value, b.values[i] as number));
}

/** Whether a term is more than the one value that changes nothing. */
function isUsed({ values }: Term, neutral: number): boolean {
  return values.some((value) => value !== neutral && value !== 0);
}

function isNamed({ name }: Term, member: string): boolean {
  return name !== '' && name.toLowerCase() === member.toLowerCase();
}

/** The numbers that every instance has, the lengths of lists, the sums over lists of maps. */
function findTerms(instances: readonly Instance[]): Term[] {
  const [first] = instances;
  if (first === undefined) return [];
  const terms: Term[] = [];
  const scalars: Term[] = [];
  for (const { text, name } of first.sources.values()) {
    const all = instances.map(({ sources }) => sources.get(text)?.value);
    if (all.every((value) => typeof value === 'number')) {
      if (!text.startsWith('size(data.')) scalars.push({ text, name, values: all as number[], kind: 'scalar' });
    } else if (all.every(Array.isArray)) terms.push(...listTerms(text, all as readonly (readonly unknown[])[]));
  }
  return [...terms, ...scalars].slice(0, MOST_TERMS);
}

function listTerms(text: string, lists: readonly (readonly unknown[])[]): Term[] {
  const size: Term = { text: `size(${text})`, name: '', values: lists.map(({ length }) => length), kind: 'size' };
  const items = lists.flat();
  if (items.length === 0 || !items.every(isJsonMap)) return [size];
  const fields = Object.keys(items[0] ?? {}).filter((field) => items.every((item) => typeof item[field] === 'number'));
  const sums = fields.map((field, i) => sumTerm(text, lists, fields.slice(i, i + 1), field));
  const products = fields.flatMap((a, i) => fields.slice(i + 1).map((b) => sumTerm(text, lists, [a, b], '')));
  return [size, ...sums, ...products, ...countTerms(text, lists, items)];
}

/** How many items have a field of some value: the free ones, those that are open. */
function countTerms(text: string, lists: readonly (readonly unknown[])[], items: readonly JsonMap[]): Term[] {
  return Object.keys(items[0] ?? {}).flatMap((field) => {
    const values = [...new Set(items.map((item) => item[field] ?? null))].filter(isPlain);
    if (values.length < 2 || values.length > MOST_VALUES || values.length === items.length) return [];
    return values.map((value): Term => {
      const written = typeof value === 'string' ? quote(value) : String(value);
      return {
        text: `size(${text}.filter(item, item${memberExpression([field])} == ${written}))`,
        name: typeof value === 'string' ? value : '',
        values: lists.map((list) => list.filter((item) => ((item as JsonMap)[field] ?? null) === value).length),
        kind: 'count',
      };
    });
  });
}

function isPlain(value: unknown): boolean {
  return value === null || typeof value === 'boolean' || (typeof value === 'string' && value.length < 40);
}

/** The sum over a list of one field, or of the product of two. */
function sumTerm(text: string, lists: readonly (readonly unknown[])[], fields: readonly string[], name: string): Term {
  const values = lists.map((list) =>
    list.reduce(
      (sum: number, item) =>
        sum + fields.reduce((product, field) => product * Number((item as Record<string, unknown>)[field]), 1),
      0,
    ),
  );
  const product = fields.map((field) => `item${memberExpression([field])}`).join(' * ');
  return { text: `sum(${text}.map(item, ${product}))`, name, values, kind: 'sum' };
}

/** The same but for what floating-point numbers lose. */
function isClose(value: number, wanted: number): boolean {
  return (
    Math.abs(value - wanted) <= 1e-9 * Math.max(1, Math.abs(wanted)) || roundTo(value, digitsOf([wanted])) === wanted
  );
}

/** Decimals of numbers as they are written; money has two. */
function digitsOf(numbers: readonly number[]): number {
  return Math.max(2, ...numbers.map((value) => String(value).split('.')[1]?.length ?? 0));
}

function roundTo(value: number, digits: number): number {
  return Number(value.toFixed(Math.min(digits, 12)));
}
