import { isJsonMap } from '../definition/json-map.js';
import type { Frame } from '../expression/frame.js';
import { writeExact } from '../json/exact-json.js';
import { NO_JSON } from '../request/request-view.js';
import { findMissingField, identifyRow } from '../state/row-key.js';
import { findRow, isSameValue, type Row, type Rows, type Where } from '../state/rows.js';
import { troubleAt } from './check-row.js';
import type { CompiledResource } from './compiled-resource.js';
import { type FieldTrouble, type Outcome, refuseCall } from './findings.js';
import { applyJsonPatch, mergePatch } from './patch-row.js';
import { presentRows } from './present-rows.js';
import { readWantedParts } from './read-list-call.js';
import { readSentRow, type SentRow } from './read-sent-row.js';
import { isStale, rowTag } from './row-tags.js';

/** What each action of a resource needs of its call. */
export interface ResourceCall {
  readonly resource: CompiledResource;
  readonly frame: Frame;
  readonly rows: Rows;
  /** Fields that the path names, with their values: whose rows, and which row. */
  readonly owned: Where;
  readonly named: Where;
}

export function readRow(call: ResourceCall): Outcome {
  const { resource, frame } = call;
  const row = findNamed(call);
  if (row === null) return refuseMissing(call);
  const parts = readWantedParts(resource, frame.request);
  if (parts.kind === 'refused')
    return refuseCall('malformed', 'The row cannot be asked for so', `query ${parts.parameter}: ${parts.reason}`);
  const tag = rowTag(row);
  if (isKnown(frame, tag)) return { ...show(call, 'found', row), kind: 'unchanged', tag };
  const { rows, included } = presentRows(resource, frame, [row], parts.value);
  return {
    kind: 'found',
    row: rows[0] ?? row,
    findings: { page: { included }, trouble: null },
    tag: parts.value.fields === null && parts.value.relations.length === 0 ? tag : null,
    location: null,
  };
}

export function createRow(call: ResourceCall): Outcome {
  const { resource, frame, rows } = call;
  const sent = readSentRow(resource, frame.request);
  if (sent.kind === 'refused') return sent.outcome;
  const row = completeRow(call, sent.row);
  const known = findMissingField(row, resource.key) === null ? rows.at(identifyRow(row, resource.key)) : undefined;
  if (known !== undefined) {
    const key = resource.key.map((field) => `${field} ${String(row[field])}`).join(', ');
    return refuseCall('taken', 'There is such a row already', `${resource.name}: ${key}`);
  }
  const stored = store(call, 'created', row);
  const own = resource.key.filter((field) => !call.owned.some(([name]) => name === field));
  const steps = own.map((field) => encodeURIComponent(String(row[field])));
  const location = [frame.request.path.replace(/\/$/, ''), ...steps].join('/');
  return stored.kind === 'created' ? { ...stored, location } : stored;
}

export function replaceRow(call: ResourceCall): Outcome {
  const { resource, frame } = call;
  const before = findNamed(call);
  const isNew = before === null;
  if (isNew && resource.definition.absent !== 'create') return refuseMissing(call);
  const stale = refuseStale(call, before);
  if (stale !== null) return stale;
  const sent = readSentRow(resource, frame.request);
  if (sent.kind === 'refused') return sent.outcome;
  const moved = movedKey(call, sent.row);
  if (moved !== null) return moved;
  const path = isNew ? pathFields(call) : { ...ownerFields(call, before), ...keyFields(call, before) };
  const row = { ...path, ...(isNew ? evaluated(call, 'defaults') : {}), ...sent.row, ...path };
  const stored = store(call, isNew ? 'created' : 'replaced', { ...row, ...evaluated(call, 'stamp') });
  return stored.kind === 'created' ? { ...stored, location: frame.request.path } : stored;
}

export function mergeRow(call: ResourceCall): Outcome {
  const before = findNamed(call);
  if (before === null) return refuseMissing(call);
  const stale = refuseStale(call, before);
  if (stale !== null) return stale;
  const patched = patchRow(call, before);
  if (patched.kind === 'refused') return patched.outcome;
  const moved = movedKey(call, patched.row);
  if (moved !== null) return moved;
  return store(call, 'merged', { ...patched.row, ...keyFields(call, before), ...evaluated(call, 'stamp') });
}

export function removeRow(call: ResourceCall): Outcome {
  const { resource, frame } = call;
  const before = findNamed(call);
  if (before === null) return refuseMissing(call);
  const stale = refuseStale(call, before);
  if (stale !== null) return stale;
  frame.changes = [() => frame.lane.data.removeRow(resource.dataset, before, frame.start)];
  return { ...show(call, 'removed', before), tag: null };
}

const JSON_PATCH = /^application\/json-patch\+json\b/i;

function patchRow({ resource, frame }: ResourceCall, before: Row): SentRow {
  const { request } = frame;
  if (resource.isJsonApi) {
    const sent = readSentRow(resource, request);
    return sent.kind === 'refused' ? sent : { kind: 'row', row: { ...before, ...sent.row } };
  }
  const sent = request.json();
  const isPatch = JSON_PATCH.test(request.header('content-type') ?? '');
  if (!isPatch || sent === NO_JSON) {
    const read = readSentRow(resource, request);
    return read.kind === 'refused' ? read : { kind: 'row', row: mergePatch(before, read.row) as Row };
  }
  const patched = applyJsonPatch(before, sent);
  if (patched.kind === 'refused') return refusePatch(patched.reason);
  return isJsonMap(patched.value)
    ? { kind: 'row', row: patched.value }
    : refusePatch('what comes out is no JSON object');
}

function refusePatch(reason: string): SentRow {
  return { kind: 'refused', outcome: refuseCall('invalid', 'The patch cannot be applied', reason) };
}

/** A row that is sent anew: with what the path says, the values of fields that were left out, and a key. */
function completeRow(call: ResourceCall, sent: Row): Row {
  const { resource, frame, rows } = call;
  const row = { ...evaluated(call, 'defaults'), ...sent, ...pathFields(call), ...evaluated(call, 'stamp') };
  const missing = findMissingField(row, resource.key);
  if (missing === null || resource.makeKey === null) return row;
  return { [missing]: resource.makeKey(frame, rows, row, missing), ...row };
}

/** Puts the row there, if it is as rows have to be. */
function store(call: ResourceCall, kind: 'created' | 'replaced' | 'merged', row: Row): Outcome {
  const { resource, frame } = call;
  const missing = findMissingField(row, resource.key);
  const keyless: FieldTrouble[] =
    missing === null ? [] : [troubleAt(missing, `/${missing}`, 'is the key: a text or a number is expected')];
  const troubles = [...keyless, ...(resource.checkRow?.(row) ?? [])];
  if (troubles.length > 0) return refuseFields(call, troubles);
  frame.changes = [() => frame.lane.data.putRow(resource.dataset, row, frame.start)];
  return { ...show(call, kind, row), tag: rowTag(row) };
}

function refuseFields({ resource }: ResourceCall, troubles: readonly FieldTrouble[]): Outcome {
  const fields = resource.isJsonApi
    ? troubles.map((own) => ({ ...own, pointer: own.pointer.replace('#', '/data/attributes') }))
    : troubles;
  const detail = troubles.map(({ field, detail: own }) => `${field} ${own}`).join('; ');
  return refuseCall('invalid', 'The row is not as it has to be', detail, fields);
}

function show({ resource, frame }: ResourceCall, kind: Outcome['kind'], row: Row): Outcome {
  const relations = [...resource.relations.values()].filter((relation) => relation.always);
  const { rows, included } = presentRows(resource, frame, [row], { fields: null, relations });
  return { kind, row: rows[0] ?? row, findings: { page: { included }, trouble: null }, tag: null, location: null };
}

function findNamed({ rows, owned, named }: ResourceCall): Row | null {
  return findRow(rows, [...owned, ...named]);
}

function refuseMissing({ resource, owned, named }: ResourceCall): Outcome {
  const asked = [...owned, ...named].map(([field, value]) => `${field} ${String(value)}`).join(', ');
  return refuseCall('missing', 'There is no such row', `${resource.name}: ${asked}`);
}

/** RFC 9110, 13.1.1 and 13.1.2. */
function refuseStale({ resource, frame }: ResourceCall, before: Row | null): Outcome | null {
  const tag = before === null ? null : rowTag(before);
  return isStale(frame.request, tag)
    ? refuseCall(
        'stale',
        'The row is not as the call expects',
        `${resource.name}: its entity tag is ${tag ?? 'none: it is not there'}`,
      )
    : null;
}

function isKnown({ request }: Frame, tag: string): boolean {
  const known = request.header('if-none-match');
  return known !== undefined && isStale({ header: (name) => (name === 'if-none-match' ? known : undefined) }, tag);
}

/** The key of a row stays: a call that sends another one is refused. */
function movedKey({ resource, owned, named }: ResourceCall, sent: Row): Outcome | null {
  const other = [...owned, ...named].find(
    ([field, value]) => resource.key.includes(field) && sent[field] !== undefined && !isSameValue(sent[field], value),
  );
  if (other === undefined) return null;
  const [field, value] = other;
  const detail = `is ${String(value)} by the path, here it is ${writeExact(sent[field])}`;
  return refuseCall('invalid', 'The key of a row stays', `${field} ${detail}`, [troubleAt(field, `/${field}`, detail)]);
}

/** The fields of a key as they are stored: in a path they are text. */
function keyFields({ resource }: ResourceCall, row: Row): Row {
  return Object.fromEntries(resource.key.map((field) => [field, row[field]]));
}

/** Whose row it is stays, where the path says it. */
function ownerFields({ owned }: ResourceCall, row: Row): Row {
  return Object.fromEntries(owned.map(([field]) => [field, row[field]]));
}

function pathFields({ resource, owned, named }: ResourceCall): Row {
  return Object.fromEntries(
    [...owned, ...named].map(([field, value]) => {
      const number = resource.numbers.has(field) ? Number(value) : Number.NaN;
      return [field, Number.isNaN(number) ? value : number];
    }),
  );
}

function evaluated({ resource, frame }: ResourceCall, which: 'defaults' | 'stamp'): Row {
  return (resource[which]?.(frame) as Row | undefined) ?? {};
}
