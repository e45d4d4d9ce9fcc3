import { isJsonMap, type JsonMap } from '../definition/json-map.js';
import { parseTemplate } from '../expression/template.js';
import type { DraftedWrite } from './drafted-write.js';
import { explainRows } from './explain-rows.js';
import type { ExplainOptions, Instance, Source } from './explain-source.js';
import { quote } from './leaves.js';
import type { Member } from './member.js';
import { toCamel } from './operation-words.js';
import type { OwnEffect } from './own-effect.js';
import { showExpression, showRow } from './owner.js';
import type { RecordKind } from './record-kind.js';
import { add, addValue } from './sources.js';

interface Item {
  readonly row: JsonMap;
  readonly sent: unknown;
  readonly member: Member;
  readonly instance: Instance;
}

/** One row for each item of a list that is sent. Null when no list of what was sent goes along with what was made. */
export function draftBatch(
  kind: RecordKind,
  effects: readonly OwnEffect[],
  members: readonly Member[],
  instances: readonly Instance[],
  options: ExplainOptions,
): DraftedWrite | null {
  const rows = effects.map((effect) => (effect.type === 'batch' ? effect.rows : []));
  const list = findList(rows, instances);
  if (list === null) return null;
  const items = rows.flatMap((own, i) =>
    own.map((row, at): Item => {
      const sent = ((instances[i]?.sources.get(list)?.value ?? []) as readonly unknown[])[at];
      return { row, sent, member: members[i] as Member, instance: instances[i] as Instance };
    }),
  );
  const templates = explainRows(
    kind,
    items.map(({ row }) => row),
    items.map(({ member }) => member),
    items.map(toInstance),
    options,
  );
  const [template] = templates;
  if (templates.some((other) => JSON.stringify(other) !== JSON.stringify(template))) return null;
  const name = toCamel(kind.name);
  const text = `let.${name}`;
  for (const [i, instance] of instances.entries()) putList(instance, text, rows[i] ?? [], kind);
  const made = `\${${list}.map(item, ${toExpression(template)})}`;
  return {
    lets: members.map(() => ({ [name]: made })),
    steps: members.map(() => [{ insert: { into: kind.name, rows: `\${${text}}` } }]),
  };
}

/** A list in what was sent that has as many items as rows were made, every time. */
function findList(rows: readonly (readonly JsonMap[])[], instances: readonly Instance[]): string | null {
  const texts = [...(instances[0]?.sources.keys() ?? [])].filter((text) => text.startsWith('call.json'));
  const fits = (text: string): boolean =>
    rows.every((own, i) => {
      const value = instances[i]?.sources.get(text)?.value;
      return Array.isArray(value) && value.length === own.length;
    });
  return texts.find(fits) ?? null;
}

/** One item as something to be explained: the item itself first, then what the whole call says. */
function toInstance({ sent, instance }: Item): Instance {
  const sources = new Map<string, Source>();
  addValue(sources, 'item', sent, '');
  for (const [text, source] of instance.sources) if (!/^call\.json\b/.test(text)) sources.set(text, source);
  return { heard: instance.heard, sources };
}

/** The rows that were made, as answers show them, before everything else. */
function putList(instance: Instance, text: string, rows: readonly JsonMap[], kind: RecordKind): void {
  const sources = instance.sources as Map<string, Source>;
  const others = [...sources];
  sources.clear();
  const shown = showExpression(kind, 'item');
  add(
    sources,
    shown === 'item' ? text : `${text}.map(item, ${shown})`,
    rows.map((row) => showRow(kind, row)),
    kind.name,
  );
  add(sources, `size(${text})`, rows.length, 'count');
  for (const [key, source] of others) sources.set(key, source);
}

/** A template as the expression that gives the same value. */
function toExpression(template: unknown): string {
  if (typeof template === 'string') return textExpression(template);
  if (Array.isArray(template)) return `[${template.map(toExpression).join(', ')}]`;
  if (!isJsonMap(template)) return String(template);
  const members = Object.entries(template).map(([name, value]) => `${quote(name)}: ${toExpression(value)}`);
  return `{${members.join(', ')}}`;
}

function textExpression(template: string): string {
  const parsed = parseTemplate(template);
  if (parsed.kind !== 'template') return quote(template);
  const [only] = parsed.parts;
  if (parsed.parts.length === 1 && only?.kind === 'expression') return only.expression;
  return parsed.parts
    .map((part) => (part.kind === 'text' ? quote(part.text) : `string(${part.expression})`))
    .join(' + ');
}
