import type { Frame } from '../expression/frame.js';
import { identifyRow, type RowKey } from '../state/row-key.js';
import type { Row } from '../state/rows.js';
import type { CompiledResource } from './compiled-resource.js';
import { type Relation, relateRows } from './relations.js';

/** Which parts of rows a call asked for. `fields`: null: all. */
export interface WantedParts {
  readonly fields: readonly string[] | null;
  readonly relations: readonly Relation[];
}

export interface PresentedRows {
  readonly rows: readonly Row[];
  /** Related rows that stand beside the others; null: none were asked for. */
  readonly included: readonly unknown[] | null;
}

/** Rows as answers show them: as they are stored with related rows in them, or as resource objects of JSON:API. */
export function presentRows(
  resource: CompiledResource,
  frame: Frame,
  rows: readonly Row[],
  wanted: WantedParts,
): PresentedRows {
  if (resource.isJsonApi) return presentJsonApi(resource, frame, rows, wanted);
  const { fields, relations } = wanted;
  if (fields === null && relations.length === 0) return { rows, included: null };
  const finders = relations.map((relation) => [relation.name, relateRows(frame, relation)] as const);
  const presented = rows.map((row) => {
    const own = fields === null ? row : keepFields(row, fields);
    return finders.length === 0
      ? own
      : { ...own, ...Object.fromEntries(finders.map(([name, find]) => [name, find(row)])) };
  });
  return { rows: presented, included: null };
}

function keepFields(row: Row, fields: readonly string[]): Row {
  return Object.fromEntries(fields.filter((field) => Object.hasOwn(row, field)).map((field) => [field, row[field]]));
}

/** Source: https://jsonapi.org/format/1.1/#document-resource-objects */
function presentJsonApi(
  resource: CompiledResource,
  frame: Frame,
  rows: readonly Row[],
  { fields, relations }: WantedParts,
): PresentedRows {
  const included = new Map<string, unknown>();
  const links = [...resource.relations.values()].flatMap((relation) => {
    const isAsked = relations.includes(relation);
    // What a list of many would be is looked for only where it is asked for.
    return relation.isMany && !isAsked ? [] : [{ relation, isAsked, find: relateRows(frame, relation) }];
  });
  const presented = rows.map((row) => {
    const relationships = links.map(({ relation, isAsked, find }) => {
      const found = find(row);
      const others = found === null ? [] : Array.isArray(found) ? (found as Row[]) : [found as Row];
      const { type, key } = describeOther(frame, relation);
      if (isAsked)
        for (const other of others)
          included.set(`${type} ${identifyRow(other, key)}`, toResourceObject(type, key, other, null));
      const data = others.map((other) => ({ type, id: identifyRow(other, key) }));
      return [relation.name, { data: relation.isMany ? data : (data[0] ?? null) }] as const;
    });
    const object = toResourceObject(resource.name, resource.key, row, fields);
    return relationships.length === 0 ? object : { ...object, relationships: Object.fromEntries(relationships) };
  });
  return { rows: presented, included: relations.length === 0 ? null : [...included.values()] };
}

function describeOther(frame: Frame, { of }: Relation): { readonly type: string; readonly key: RowKey } {
  return { type: of, key: frame.lane.data.rows(of, frame.start)?.key ?? ['id'] };
}

function toResourceObject(type: string, key: RowKey, row: Row, fields: readonly string[] | null): Row {
  const [only = ''] = key;
  const own = Object.entries(row).filter(
    ([name]) => (key.length > 1 || name !== only) && (fields?.includes(name) ?? true),
  );
  return { type, id: identifyRow(row, key), attributes: Object.fromEntries(own) };
}
