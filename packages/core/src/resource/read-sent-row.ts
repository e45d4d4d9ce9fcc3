import { isJsonMap } from '../definition/json-map.js';
import { NO_JSON, type RequestView } from '../request/request-view.js';
import type { Row } from '../state/rows.js';
import type { CompiledResource } from './compiled-resource.js';
import { type Outcome, refuseCall } from './findings.js';

/** The fields that a call sends, or the refusal of what it sends in their place. */
export type SentRow =
  | { readonly kind: 'row'; readonly row: Row }
  | { readonly kind: 'refused'; readonly outcome: Outcome };

export function readSentRow(resource: CompiledResource, request: RequestView): SentRow {
  const sent = request.json();
  if (sent === NO_JSON) return malformed(request.text() === '' ? 'there is no body' : 'the body is no JSON');
  if (!isJsonMap(sent)) return malformed('the body is no JSON object');
  return resource.isJsonApi ? readResourceObject(resource, sent) : { kind: 'row', row: sent };
}

/** Source: https://jsonapi.org/format/1.1/#crud */
function readResourceObject(resource: CompiledResource, sent: Row): SentRow {
  const { data } = sent;
  if (!isJsonMap(data)) return malformed('`data` with a resource object is expected');
  const { type, id, attributes, relationships } = data;
  if (type !== resource.name) {
    const detail = `\`data.type\` is ${JSON.stringify(type ?? null)}; here it is ${JSON.stringify(resource.name)}`;
    return { kind: 'refused', outcome: refuseCall('taken', 'The type is not that of this resource', detail) };
  }
  if (attributes !== undefined && !isJsonMap(attributes)) return malformed('`data.attributes` is no JSON object');
  const [key = ''] = resource.key;
  const linked = isJsonMap(relationships) ? readLinks(resource, relationships) : {};
  const own = resource.key.length === 1 && id !== undefined ? { [key]: typedKey(resource, key, id) } : {};
  return { kind: 'row', row: { ...own, ...linked, ...attributes } };
}

function typedKey({ numbers }: CompiledResource, field: string, id: unknown): unknown {
  return numbers.has(field) && typeof id === 'string' && id.trim() !== '' && !Number.isNaN(Number(id))
    ? Number(id)
    : id;
}

/** What a relationship to one row says is kept in our own fields. */
function readLinks(resource: CompiledResource, relationships: Row): Row {
  const fields: Record<string, unknown> = {};
  for (const [name, relation] of resource.relations) {
    const sent = relationships[name];
    if (relation.isMany || relation.pairs.length !== 1 || !isJsonMap(sent)) continue;
    const [[, ours] = ['', '']] = relation.pairs;
    const { data } = sent;
    fields[ours] = isJsonMap(data) ? typedKey(resource, ours, data['id']) : null;
  }
  return fields;
}

function malformed(detail: string): SentRow {
  return { kind: 'refused', outcome: refuseCall('malformed', 'The body cannot be read', detail) };
}
