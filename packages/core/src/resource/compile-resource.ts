import { compileAnswer } from '../answer/compile-answer.js';
import { compileData, toEvaluate } from '../answer/compile-data.js';
import { createTextScope, type TextScope } from '../answer/compile-text.js';
import type { CompiledAnswer } from '../answer/compiled-answer.js';
import type { ResourceAction, ResourceDefinition, ResourceOutcome } from '../definition/resource.js';
import { RESOURCE_ACTIONS, RESOURCE_OUTCOMES } from '../definition/resource.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { NamesInScope } from '../expression/compile-context.js';
import type { Evaluate } from '../expression/frame.js';
import type { AddedCase } from '../matching/add-operations.js';
import type { CompiledCase } from '../matching/compile-case.js';
import { describeUnknownDataset } from '../state/compile-row-pick.js';
import type { Row, Rows } from '../state/rows.js';
import { answerByRows } from './answer-by-rows.js';
import { type CheckRow, compileCheckRow } from './check-row.js';
import type { CompiledResource, ResourcePath } from './compiled-resource.js';
import { compileNewKey } from './new-key.js';
import { compileQueryStyle } from './query-style.js';
import { compileRelation } from './relations.js';
import { parseSort } from './row-order.js';
import { JSON_API_ANSWERS, PLAIN_ANSWERS } from './usual-answers.js';

export interface ResourceScope {
  /** What expressions may use; the path has no names of its own in them. */
  readonly names: NamesInScope;
  readonly datasets: ReadonlyMap<string, Rows>;
  /** Names, in lower case, of query parameters that let callers in. */
  readonly secrets: ReadonlySet<string>;
  readonly report: TextScope['report'];
}

/** The case that a resource puts at the end of an operation is called so. */
const RESOURCE_CASE = 'resource';
const METHODS: Readonly<Record<ResourceAction, string>> = {
  list: 'GET',
  read: 'GET',
  create: 'POST',
  replace: 'PUT',
  merge: 'PATCH',
  remove: 'DELETE',
};
const USUAL_SIZE = 100;
const USUAL_MOST = 1_000;

/** What a resource adds to a service: one case at each of its addresses. */
export function compileResource(
  name: string,
  definition: ResourceDefinition,
  path: readonly PathKey[],
  scope: ResourceScope,
): readonly AddedCase[] {
  const dataset = definition.of ?? name;
  const rows = scope.datasets.get(dataset);
  if (rows === undefined) {
    const at = definition.of === undefined ? path : [...path, 'of'];
    scope.report(describeUnknownDataset(dataset, [...scope.datasets.keys()]), at);
    return [];
  }
  const text = createTextScope(scope.report, { ...scope.names, path: null, row: true, resource: true });
  const resource = readResource(name, dataset, definition, rows, path, text, scope);
  const answers = compileAnswers(definition, path, text);
  const paths = [definition.at].flat();
  return paths.flatMap((template, i) => {
    const suffix = i === 0 ? '' : `-${i + 1}`;
    const place = readPath(template, resource, definition.path ?? {});
    const item = [template.replace(/\/$/, ''), ...place.keys.map((field) => `{${field}}`)].join('/');
    return resource.actions.map((action) => ({
      name: `${name}.${action}${suffix}`,
      givesTokens: false,
      path: [...path, 'at'],
      on: `${METHODS[action]} ${action === 'list' || action === 'create' ? template : item}`,
      case: buildCase(resource, action, place, template, {
        answer: answerByRows(resource, action, place, answers),
        first: rows.list()[0],
      }),
    }));
  });
}

function readResource(
  name: string,
  dataset: string,
  definition: ResourceDefinition,
  rows: Rows,
  path: readonly PathKey[],
  text: TextScope,
  scope: ResourceScope,
): CompiledResource {
  const starting = rows.list();
  const most = definition.page?.most ?? USUAL_MOST;
  return {
    name,
    dataset,
    key: rows.key,
    definition,
    isJsonApi: definition.style === 'json-api',
    actions: RESOURCE_ACTIONS.filter((action) => definition.allow?.includes(action) ?? true),
    query: compileQueryStyle(definition, name),
    page: { size: Math.min(definition.page?.size ?? USUAL_SIZE, most), most, first: definition.page?.first ?? 1 },
    sort: parseSort(definition.sort ?? ''),
    relations: compileRelations(definition, path, scope),
    fields: knownFields(definition, starting),
    numbers: numberFields(definition, starting),
    secrets: scope.secrets,
    makeKey: compileNewKey(definition.new, name, rows.key, starting, text.takePosition()),
    defaults: compileValues(definition.defaults, [...path, 'defaults'], text),
    stamp: compileValues(definition.stamp, [...path, 'stamp'], text),
    checkRow: compileFits(definition, path, scope),
  };
}

function compileRelations(definition: ResourceDefinition, path: readonly PathKey[], scope: ResourceScope) {
  return new Map(
    Object.entries(definition.relations ?? {}).map(([name, own]) => {
      const other = scope.datasets.get(own.of);
      if (other === undefined)
        scope.report(describeUnknownDataset(own.of, [...scope.datasets.keys()]), [...path, 'relations', name, 'of']);
      return [name, compileRelation(name, own, other?.key ?? [])] as const;
    }),
  );
}

function compileValues(
  values: ResourceDefinition['defaults'],
  path: readonly PathKey[],
  text: TextScope,
): Evaluate | null {
  const names = { ...text.names, row: false, resource: false };
  return values === undefined ? null : toEvaluate(compileData(values, path, { ...text, names }));
}

function compileFits({ fits }: ResourceDefinition, path: readonly PathKey[], scope: ResourceScope): CheckRow | null {
  if (fits === undefined) return null;
  const compiled = compileCheckRow(fits);
  if (typeof compiled !== 'string') return compiled;
  scope.report(`\`fits\` is no JSON Schema: ${compiled}`, [...path, 'fits']);
  return null;
}

/** Rows looked at to learn which fields there are, and of which type. */
const ROWS_LOOKED_AT = 1_000;

function knownFields(
  { fits, defaults, stamp }: ResourceDefinition,
  starting: readonly Row[],
): ReadonlySet<string> | null {
  const fields = new Set(starting.slice(0, ROWS_LOOKED_AT).flatMap((row) => Object.keys(row)));
  for (const field of Object.keys(propertiesOf(fits))) fields.add(field);
  if (fields.size === 0) return null;
  for (const field of Object.keys({ ...defaults, ...stamp })) fields.add(field);
  return fields;
}

function numberFields({ fits }: ResourceDefinition, starting: readonly Row[]): ReadonlySet<string> {
  const [first = {}] = starting;
  const looked = starting.slice(0, ROWS_LOOKED_AT);
  const seen = Object.keys(first).filter((field) => looked.every((row) => typeof row[field] === 'number'));
  const said = Object.entries(propertiesOf(fits)).flatMap(([field, schema]) =>
    /^(number|integer)$/.test(String((schema as Row | null)?.['type'])) ? [field] : [],
  );
  return new Set([...seen, ...said]);
}

function propertiesOf(schema: ResourceDefinition['fits']): Row {
  const properties = schema?.['properties'];
  return properties !== null && typeof properties === 'object' ? (properties as Row) : {};
}

/** Parameters of the list's path are fields of its rows; what they leave of the key names one row. */
function readPath(
  template: string,
  { key }: CompiledResource,
  renamed: Readonly<Record<string, string>>,
): ResourcePath {
  const owners = parameterNames(template).map((name) => renamed[name] ?? name);
  const keys = key.filter((field) => !owners.includes(field));
  return { owners, keys };
}

function parameterNames(template: string): string[] {
  return [...template.matchAll(/\{([^}.]+)(?:\.\.\.)?\}/g)].map(([, name = '']) => name);
}

function compileAnswers(
  definition: ResourceDefinition,
  path: readonly PathKey[],
  text: TextScope,
): ReadonlyMap<ResourceOutcome, CompiledAnswer> {
  const usual = definition.style === 'json-api' ? JSON_API_ANSWERS : PLAIN_ANSWERS;
  return new Map(
    RESOURCE_OUTCOMES.map((outcome) => {
      const own = definition.answers?.[outcome];
      if (own?.turns !== undefined || own?.relay !== undefined)
        text.report('an answer of a resource has no `turns` and no `relay`', [...path, 'answers', outcome]);
      return [outcome, compileAnswer(own ?? usual[outcome], [...path, 'answers', outcome], text)] as const;
    }),
  );
}

const REFUSALS: readonly ResourceOutcome[] = ['missing', 'malformed'];
/** What each action may come to. */
const COMES_TO: Readonly<Record<ResourceAction, readonly ResourceOutcome[]>> = {
  list: ['listed', ...REFUSALS],
  read: ['found', ...REFUSALS],
  create: ['created', 'invalid', 'taken', ...REFUSALS],
  replace: ['replaced', 'invalid', 'stale', ...REFUSALS],
  merge: ['merged', 'invalid', 'stale', ...REFUSALS],
  remove: ['removed', 'stale', 'missing'],
};

/** `first`: a row that samples are about. */
function buildCase(
  { dataset, definition }: CompiledResource,
  action: ResourceAction,
  { owners, keys }: ResourcePath,
  template: string,
  { answer, first }: { readonly answer: CompiledAnswer; readonly first: Row | undefined },
): CompiledCase {
  const usual = definition.style === 'json-api' ? JSON_API_ANSWERS : PLAIN_ANSWERS;
  const own = [...parameterNames(template), ...keys];
  const path = Object.fromEntries(
    [...owners, ...keys].map((field, i) => [own[i] ?? field, String(first?.[field] ?? 'none-of-these')]),
  );
  return {
    name: RESOURCE_CASE,
    definition: { case: RESOURCE_CASE, answer: {}, sample: { path } },
    added: {
      from: `the rows of ${dataset}`,
      answers: COMES_TO[action].map((outcome) => definition.answers?.[outcome] ?? usual[outcome]),
    },
    conditions: [],
    lets: null,
    answer,
    turns: null,
    steps: null,
    callbacks: null,
    exact: [],
  };
}
