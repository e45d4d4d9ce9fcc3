import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import { eachLeaf, isSame, memberExpression, quote } from './leaves.js';
import type { ListCall } from './list-filter.js';
import { optionalMember, readListParameter } from './list-parameters.js';
import type { Member } from './member.js';

/** Pages that are asked for by what the page before gave: an opaque word, the key of its last row, or a number. */
export interface ListCursor {
  /** Where the page begins, as the file computes it. */
  readonly from: string;
  readonly shown: string;
  /** What leads to the next page: the expression, and what each answer had. */
  readonly next: { readonly text: string; readonly name: string; readonly values: readonly unknown[] };
  readonly told: string;
}

interface CursorScope {
  readonly members: readonly Member[];
  readonly calls: readonly ListCall[];
  readonly arranged: readonly (readonly JsonMap[])[];
  readonly key: string;
}

/** The word that our own cursors begin with; what follows is where the next page begins. */
const WORD = 'from-';
const OWN_CURSOR = /^from-\d+$/;

/** Whether a text is a cursor as drafts make them, in the place of an opaque one. */
export function isOwnCursor(text: string): boolean {
  return OWN_CURSOR.test(text);
}

export function findCursor(scope: CursorScope): ListCursor | null {
  const names = new Set(scope.calls.flatMap(({ given }) => [...given.keys()]));
  for (const name of names) {
    const found = isCursor(name, scope.calls, scope.members) ? tryCursor(name, scope) : null;
    if (found !== null) return found;
  }
  return null;
}

/** Whether every value of a parameter was given by an earlier page, beside its list: then it leads to a page and filters nothing. */
export function isCursor(name: string, calls: readonly ListCall[], members: readonly Member[]): boolean {
  const asked = calls.flatMap(({ given }, i) => (given.has(name) ? [{ value: given.get(name) ?? '', i }] : []));
  return (
    readListParameter(name) === null &&
    !name.startsWith('\u0000') &&
    asked.length > 0 &&
    asked.length < calls.length &&
    asked.every(({ value, i }) => findGiver(value, i, members) !== null)
  );
}

/** Where in an answer the way to the next page stands: a member, and what stands around the cursor in its text. */
interface Spot {
  readonly steps: readonly (string | number)[];
  readonly before: string;
  readonly after: string;
}

function tryCursor(name: string, { members, calls, arranged, key }: CursorScope): ListCursor | null {
  const starts: number[] = [];
  let spot: Spot | null = null;
  const forms = new Set<'key' | 'number' | 'opaque'>();
  for (const [i, { given }] of calls.entries()) {
    const cursor = given.get(name);
    if (cursor === undefined) {
      starts.push(0);
      continue;
    }
    const giver = findGiver(cursor, i, members);
    if (giver === null || (spot !== null && !isSame(spot, giver.spot))) return null;
    spot = giver.spot;
    const before = calls[giver.index]?.listed ?? [];
    const start = (starts[giver.index] ?? 0) + before.length;
    starts.push(start);
    forms.add(String(before.at(-1)?.[key]) === cursor ? 'key' : cursor === String(start) ? 'number' : 'opaque');
  }
  const [form] = forms;
  if (spot === null || form === undefined || forms.size > 1) return null;
  const limit = [...new Set(calls.flatMap(({ given }) => [...given.keys()]))].find(
    (other) => readListParameter(other) === 'length',
  );
  const usual = Math.max(
    0,
    ...calls.flatMap(({ listed }, i) =>
      (starts[i] ?? 0) + listed.length < (arranged[i]?.length ?? 0) ? [listed.length] : [],
    ),
  );
  const lengthOf = ({ given }: ListCall): number =>
    Number((limit === undefined ? undefined : given.get(limit)) ?? usual);
  const holds = calls.every((call, i) => {
    const from = starts[i] ?? 0;
    return isSame(call.listed, (arranged[i] ?? []).slice(from, from + lengthOf(call)));
  });
  if (!holds || usual === 0) return null;
  const length = limit === undefined ? String(usual) : `number(call.query${optionalMember(limit)}.orValue(${usual}))`;
  return write(name, spot, form, { key, length, members });
}

/** The last call before this one whose answer led to its page. */
function findGiver(cursor: string, index: number, members: readonly Member[]): { index: number; spot: Spot } | null {
  for (let i = index - 1; i >= 0; i--) {
    let spot: Spot | null = null;
    eachLeaf(members[i]?.heard.answerJson, (value, steps) => {
      if (spot !== null || steps.some((step) => typeof step === 'number')) return;
      if (String(value) === cursor) spot = { steps, before: '', after: '' };
      else if (typeof value === 'string' && value.includes(`=${cursor}`)) {
        const at = value.indexOf(`=${cursor}`) + 1;
        spot = { steps, before: value.slice(0, at), after: value.slice(at + cursor.length) };
      }
    });
    if (spot !== null) return { index: i, spot };
  }
  return null;
}

function write(
  name: string,
  { steps, before, after }: Spot,
  form: 'key' | 'number' | 'opaque',
  { key, length, members }: { readonly key: string; readonly length: string; readonly members: readonly Member[] },
): ListCursor {
  const asked = `call.query${memberExpression([name])}`;
  const readKey = memberExpression([key]);
  const start = {
    key: `max([-1] + range(size(let.found)).filter(i, string(let.found[i]${readKey}) == ${asked})) + 1`,
    number: `number(${asked})`,
    opaque: `number(${asked}.substring(${WORD.length}))`,
  }[form];
  const made = {
    key: `let.found[let.from + ${length} - 1]${readKey}`,
    number: `let.from + ${length}`,
    opaque: `'${WORD}' + string(let.from + ${length})`,
  }[form];
  const isText = before !== '' || after !== '';
  const origin = members[0]?.heard.exchange.origin ?? '';
  const head =
    before.startsWith(origin) && origin !== '' ? `call.origin + ${quote(before.slice(origin.length))}` : quote(before);
  const whole = isText
    ? `${head} + ${form === 'opaque' ? made : `string(${made})`}${after === '' ? '' : ` + ${quote(after)}`}`
    : made;
  const values = members.map(({ heard }) => leafAt(heard.answerJson, steps));
  const none = values.every((value) => value !== undefined)
    ? literal(values.find((value) => !isWay(value)) ?? null)
    : 'omit';
  return {
    from: `${asked} == null ? 0 : ${start}`,
    shown: `slice(let.found, let.from, let.from + ${length})`,
    next: {
      text: `let.from + ${length} < size(let.found) ? ${whole} : ${none}`,
      name: String(steps.at(-1) ?? ''),
      values,
    },
    told: `in pages of ${length}, by ${name}`,
  };
}

function isWay(value: unknown): boolean {
  return value !== null && value !== undefined && value !== '' && value !== false;
}

function literal(value: unknown): string {
  return typeof value === 'string' ? quote(value) : String(value);
}

function leafAt(json: unknown, steps: readonly (string | number)[]): unknown {
  return steps.reduce((at: unknown, step) => (isJsonMap(at) ? at[String(step)] : undefined), json);
}
