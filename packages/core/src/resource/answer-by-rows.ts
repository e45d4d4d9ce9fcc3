import type { CompiledAnswer } from '../answer/compiled-answer.js';
import type { RenderedAnswer } from '../answer/rendered-answer.js';
import type { ResourceAction, ResourceOutcome } from '../definition/resource.js';
import { type Frame, fail } from '../expression/frame.js';
import { findRow, type Where } from '../state/rows.js';
import type { CompiledResource, ResourcePath } from './compiled-resource.js';
import { type Outcome, refuseCall } from './findings.js';
import { listRows } from './list-rows.js';
import { createRow, mergeRow, type ResourceCall, readRow, removeRow, replaceRow } from './write-rows.js';

type Act = (call: ResourceCall) => Outcome;

const ACTS: Readonly<Record<ResourceAction, Act>> = {
  list: ({ resource, frame, owned }) => listRows(resource, frame, owned),
  read: readRow,
  create: createRow,
  replace: replaceRow,
  merge: mergeRow,
  remove: removeRow,
};

const NOT_MODIFIED = 304;

/** The answer of a resource to one of its methods: what comes of it is decided first, then told by the answer to that. */
export function answerByRows(
  resource: CompiledResource,
  action: ResourceAction,
  { owners, keys }: ResourcePath,
  answers: ReadonlyMap<ResourceOutcome, CompiledAnswer>,
): CompiledAnswer {
  const act = ACTS[action];
  const render = (frame: Frame): RenderedAnswer => {
    const rows = frame.lane.data.rows(resource.dataset, frame.start);
    if (rows === null) return fail(`the dataset ${resource.dataset} is gone`);
    const { paramValues } = frame.request;
    const owned: Where = owners.map((field, i) => [field, paramValues[i] ?? '']);
    const named: Where =
      action === 'list' || action === 'create'
        ? []
        : keys.map((field, i) => [field, paramValues[owners.length + i] ?? '']);
    const call = { resource, frame, rows, owned, named };
    return renderOutcome(refuseOrphan(call) ?? act(call), frame, answers);
  };
  return { constant: null, render };
}

/** What belongs to a row that is not there is not there either. */
function refuseOrphan({ resource, frame, owned }: ResourceCall): Outcome | null {
  if (owned.length === 0) return null;
  for (const { of, pairs, isMany } of resource.relations.values()) {
    const where = pairs.flatMap(([theirs, ours]) =>
      owned.flatMap(([field, value]) => (field === ours ? [[theirs, value] as const] : [])),
    );
    if (isMany || where.length < pairs.length) continue;
    const others = frame.lane.data.rows(of, frame.start);
    if (others === null || findRow(others, where) !== null) continue;
    const asked = where.map(([field, value]) => `${field} ${String(value)}`).join(', ');
    return refuseCall('missing', 'There is no such row', `${of}: ${asked}`);
  }
  return null;
}

function renderOutcome(
  { kind, row, findings, tag, location }: Outcome,
  frame: Frame,
  answers: ReadonlyMap<ResourceOutcome, CompiledAnswer>,
): RenderedAnswer {
  if (kind === 'unchanged') return { status: NOT_MODIFIED, headers: tag === null ? [] : ['etag', tag], body: null };
  frame.row = row;
  frame.findings = findings;
  const answer = answers.get(kind);
  if (answer === undefined) return fail(`there is no answer to ${kind}`);
  const rendered = answer.constant ?? answer.render(frame);
  const more = [
    ...(tag === null || hasHeader(rendered, 'etag') ? [] : ['etag', tag]),
    ...(location === null || hasHeader(rendered, 'location') ? [] : ['location', location]),
  ];
  return more.length === 0 ? rendered : { ...rendered, headers: [...rendered.headers, ...more] };
}

function hasHeader({ headers }: RenderedAnswer, name: string): boolean {
  return headers.some((text, i) => i % 2 === 0 && text.toLowerCase() === name);
}
