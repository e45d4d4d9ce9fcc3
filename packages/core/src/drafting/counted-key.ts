import type { JsonMap } from '../definition/json-map.js';
import type { Instance } from './explain-source.js';
import { memberExpression, quote } from './leaves.js';
import type { Member } from './member.js';
import { keyFields } from './owner.js';
import type { RecordKind } from './record-kind.js';

/**
 * The expression that counts the keys of things: `next('film', 4)`; anew within each of their owners where these belong
 * to the key: `next('visit of ' + call.path.code, 1)`. Null when the keys are not numbers that go up by one.
 */
export function explainCountedKey(
  kind: RecordKind,
  rows: readonly JsonMap[],
  members: readonly Member[],
  instances: readonly Instance[],
): string | null {
  const fields = keyFields(kind).slice(0, -1);
  const owners = fields.map((field) => findReader(field, rows, instances));
  const keys = rows.map((row) => row[kind.key]);
  const isText = keys.every((key) => typeof key === 'string' && /^[1-9]\d{0,14}$/.test(key));
  if (owners.includes(null) || !(isText || keys.every(Number.isInteger))) return null;
  const first = explainFirst(kind, rows, members, owners as readonly string[]);
  if (first === null) return null;
  const name =
    owners.length === 0 ? quote(kind.noun) : [quote(`${kind.noun} of `), owners.join(" + '/' + ")].join(' + ');
  const counter = `next(${name}, ${first})`;
  return isText ? `\${string(${counter})}` : `\${${counter}}`;
}

/** Fields that only calls show, read from them: whose the row is. */
export function explainOwners(
  kind: RecordKind,
  rows: readonly JsonMap[],
  instances: readonly Instance[],
): Readonly<Record<string, string>> {
  const hidden = kind.owner?.hidden ?? [];
  return Object.fromEntries(
    hidden.flatMap((field) => {
      const text = findReader(field, rows, instances);
      return text === null ? [] : [[field, `\${${text}}`]];
    }),
  );
}

/** The parameter that every call had the owner's key in, or who called. */
function findReader(field: string, rows: readonly JsonMap[], instances: readonly Instance[]): string | null {
  const texts = [...(instances[0]?.sources.keys() ?? [])].filter((text) =>
    /^(call\.path\.|state\.callers\[)/.test(text),
  );
  const fits = (text: string): boolean =>
    rows.every((row, i) => String(instances[i]?.sources.get(text)?.value) === String(row[field]));
  return (
    texts.find((text) => text === `call.path${memberExpression([field])}` && fits(text)) ?? texts.find(fits) ?? null
  );
}

/** What the count begins with: one number for all, or one more than there was. Null when it does not go up by one. */
function explainFirst(
  kind: RecordKind,
  rows: readonly JsonMap[],
  members: readonly Member[],
  owners: readonly string[],
): string | null {
  const fields = keyFields(kind).slice(0, -1);
  const before = new Map<string, number>();
  const begins: { readonly key: number; readonly most: number }[] = [];
  for (const [i, row] of rows.entries()) {
    const owner = JSON.stringify(fields.map((field) => row[field]));
    const key = Number(row[kind.key]);
    const last = before.get(owner);
    if (last !== undefined && key !== last + 1) return null;
    if (last === undefined) begins.push({ key, most: members[i]?.highestKey ?? 0 });
    before.set(owner, key);
  }
  const [{ key: start } = { key: 1 }] = begins;
  const isConstant = begins.every(({ key }) => key === start);
  if (isConstant && begins.every(({ most }) => most === 0)) return String(start);
  if (!begins.every(({ key, most }) => key === most + 1)) return isConstant ? String(start) : null;
  // Where nothing but the session's own rows is counted, a number says it as well.
  if (fields.length === 0) return String(start);
  const isOwn = fields.map((field, i) => `string(item${memberExpression([field])}) == ${owners[i]}`).join(' && ');
  const numbers = `data.${kind.name}.filter(item, ${isOwn}).map(item, number(item${memberExpression([kind.key])}))`;
  return `1 + max([0] + ${numbers})`;
}
