import type { Answer } from '../definition/answer.js';
import type { ResourceOutcome } from '../definition/resource.js';

type Answers = Readonly<Record<ResourceOutcome, Answer>>;

const STATUS: Readonly<Record<ResourceOutcome, number>> = {
  listed: 200,
  found: 200,
  created: 201,
  replaced: 200,
  merged: 200,
  removed: 204,
  missing: 404,
  invalid: 422,
  malformed: 400,
  taken: 409,
  stale: 412,
};

const TROUBLE = {
  title: '${trouble.title}',
  detail: '${trouble.detail}',
  errors: '${trouble.fields == [] ? omit : trouble.fields}',
};

function refusal(outcome: ResourceOutcome): Answer {
  return { status: STATUS[outcome], problem: { status: STATUS[outcome], ...TROUBLE } };
}

function row(outcome: ResourceOutcome): Answer {
  return { status: STATUS[outcome], json: '${row}' };
}

/** What calls of a resource are answered with where the file does not say it. */
export const PLAIN_ANSWERS: Answers = {
  listed: {
    json: { items: '${page.rows}', total: '${page.total}', next: '${page.next == null ? omit : page.next}' },
  },
  found: row('found'),
  created: row('created'),
  replaced: row('replaced'),
  merged: row('merged'),
  removed: { status: STATUS.removed, none: true },
  missing: refusal('missing'),
  invalid: refusal('invalid'),
  malformed: refusal('malformed'),
  taken: refusal('taken'),
  stale: refusal('stale'),
};

const JSON_API = { 'content-type': 'application/vnd.api+json' };
const INCLUDED = { included: '${page.included == null ? omit : page.included}' };

function document(outcome: ResourceOutcome): Answer {
  return { status: STATUS[outcome], headers: JSON_API, json: { data: '${row}', ...INCLUDED } };
}

function errors(outcome: ResourceOutcome): Answer {
  const shared = `'status': '${STATUS[outcome]}', 'title': trouble.title`;
  const each = `trouble.fields.map(own, {${shared}, 'detail': own.field + ' ' + own.detail, 'source': {'pointer': own.pointer}})`;
  const whole = `[{${shared}, 'detail': trouble.detail}]`;
  return {
    status: STATUS[outcome],
    headers: JSON_API,
    json: { errors: `\${trouble.fields == [] ? ${whole} : ${each}}` },
  };
}

/** Source: https://jsonapi.org/format/1.1/#document-structure and #errors */
export const JSON_API_ANSWERS: Answers = {
  listed: {
    headers: JSON_API,
    json: {
      data: '${page.rows}',
      ...INCLUDED,
      links: {
        self: '${page.self}',
        first: '${page.first}',
        prev: '${page.prev}',
        next: '${page.next}',
        last: '${page.last}',
      },
      meta: { total: '${page.total}' },
    },
  },
  found: document('found'),
  created: document('created'),
  replaced: document('replaced'),
  merged: document('merged'),
  removed: { status: STATUS.removed, none: true },
  missing: errors('missing'),
  invalid: errors('invalid'),
  malformed: errors('malformed'),
  taken: errors('taken'),
  stale: errors('stale'),
};
