import { isJsonMap } from '../definition/json-map.js';
import { escapeTemplates } from '../expression/template.js';
import { explainComputed } from './explain-computed.js';
import { explainMade } from './explain-made.js';
import { explainPath } from './explain-path.js';
import type { ExplainOptions, Instance, Source } from './explain-source.js';
import { explainText } from './explain-text.js';
import { isSame, memberExpression, quote } from './leaves.js';
import { isSameParameter, normalize } from './list-parameters.js';
import { shapeOf } from './value-shape.js';

/**
 * Finds for each instance the template (text, JSON with `${...}`) that gives its target: the same template wherever one
 * explanation holds for all instances, the heard value where none does.
 */
export function explainValues(
  targets: readonly unknown[],
  instances: readonly Instance[],
  options: ExplainOptions,
  member = '',
): readonly unknown[] {
  const whole = explainBySource(targets, instances, member);
  if (whole !== null) return targets.map(() => whole);
  if (targets.every(isJsonMap)) return explainMaps(targets, instances, options);
  if (targets.every(Array.isArray))
    return explainLists(targets as readonly (readonly unknown[])[], instances, options, member);
  if (targets.some((target) => target !== null && typeof target === 'object')) return targets.map(escapeTemplates);
  const made = options.makes ? explainMade(targets, instances, options, member) : null;
  if (made !== null) return targets.map(() => made);
  const counted = explainCount(targets, instances, member);
  if (counted !== null) return targets.map(() => counted);
  const computed = explainComputed(targets, instances, member);
  if (computed !== null) return targets.map(() => computed);
  const path = explainPath(targets, instances);
  if (path !== null) return targets.map(() => path);
  const text = explainText(targets, instances, options);
  if (text !== null) return targets.map(() => text);
  return targets.map(escapeTemplates);
}

function explainMaps(
  targets: readonly Readonly<Record<string, unknown>>[],
  instances: readonly Instance[],
  options: ExplainOptions,
): readonly unknown[] {
  const view = explainByRow(targets, instances);
  if (view !== null) return targets.map(() => view);
  const members = [...new Set(targets.flatMap((target) => Object.keys(target)))];
  const made = targets.map((): Record<string, unknown> => ({}));
  for (const member of members) {
    const having = targets.flatMap((target, i) => (Object.hasOwn(target, member) ? [i] : []));
    const templates = explainValues(
      having.map((i) => targets[i]?.[member]),
      having.map((i) => instances[i] as Instance),
      options,
      member,
    );
    const optional = having.length < targets.length ? explainOptional(templates, having, instances) : null;
    if (optional !== null) for (const map of made) setMember(map, member, optional);
    else for (const [at, i] of having.entries()) setMember(made[i] as Record<string, unknown>, member, templates[at]);
  }
  return made;
}

/** Some fields of one row, in its place among the rows. */
function explainByRow(
  targets: readonly Readonly<Record<string, unknown>>[],
  instances: readonly Instance[],
): Record<string, string> | null {
  const fields = Object.keys(targets[0] ?? {});
  if (fields.length < 2) return null;
  for (const { text } of instances[0]?.sources.values() ?? []) {
    if (!/^data\.\w+\[\d+\]$/.test(text)) continue;
    const isShown = targets.every((target, i) => {
      const row = instances[i]?.sources.get(text)?.value;
      return isJsonMap(row) && Object.entries(target).every(([field, value]) => isSame(row[field], value));
    });
    if (isShown) return Object.fromEntries(fields.map((field) => [field, `\${${text}${memberExpression([field])}}`]));
  }
  return null;
}

function setMember(map: Record<string, unknown>, member: string, value: unknown): void {
  Object.defineProperty(map, member, { value, enumerable: true, configurable: true, writable: true });
}

/** A member that is there exactly when what it is made from is there. */
function explainOptional(
  templates: readonly unknown[],
  having: readonly number[],
  instances: readonly Instance[],
): string | null {
  const [first] = templates;
  if (typeof first !== 'string' || !templates.every((template) => template === first)) return null;
  // What leads to a next page leaves itself out on the last.
  if (/ : omit\}$/.test(first)) return first;
  const text = /^\$\{(call\.(?:json|query|form)[^(){}]*|row\.[^(){}]*)\}$/.exec(first)?.[1];
  if (text === undefined) return null;
  const isAbsent = instances.every(
    (instance, i) => having.includes(i) || (instance.sources.get(text)?.value ?? null) === null,
  );
  return isAbsent ? `\${${optionalRead(text)}.orValue(omit)}` : null;
}

/** `call.json.note` -> `call.json.?note`. */
export function optionalRead(text: string): string {
  return text.replace(/\.([A-Za-z_]\w*)$/, '.?$1').replace(/\[('[^']*')\]$/, '[?$1]');
}

function explainLists(
  targets: readonly (readonly unknown[])[],
  instances: readonly Instance[],
  options: ExplainOptions,
  member: string,
): readonly unknown[] {
  const length = targets[0]?.length ?? 0;
  if (targets.some((target) => target.length !== length)) return explainEach(targets, instances, options, member);
  if (length > MOST_ITEMS) return targets.map(escapeTemplates);
  const items = Array.from({ length }, (_, i) =>
    explainValues(
      targets.map((target) => target[i]),
      instances,
      options,
      member,
    ),
  );
  return targets.map((_, i) => items.map((templates) => templates[i]));
}

/** Lists that differ in length are explained each by itself, by the rows there were. */
function explainEach(
  targets: readonly (readonly unknown[])[],
  instances: readonly Instance[],
  options: ExplainOptions,
  member: string,
): readonly unknown[] {
  return targets.map((target, i) => {
    const own = instances[i] as Instance;
    const rows = new Map([...own.sources].filter(([text]) => /^(data|let)\./.test(text)));
    const [template] = explainLists(
      [target],
      [{ heard: own.heard, sources: rows }],
      { ...options, makes: false },
      member,
    );
    return template;
  });
}

/** Longer lists are data, not something made from the call. */
const MOST_ITEMS = 20;

/** The source that has the target's value in every instance. */
function explainBySource(targets: readonly unknown[], instances: readonly Instance[], member: string): string | null {
  const [first] = instances;
  const target = targets.find((value) => !isEmpty(value));
  if (first === undefined) return null;
  if (target === undefined) return explainEmpty(targets, instances, member);
  const isVaried = targets.some((other) => !isSame(other, target));
  let best: Source | null = null;
  let bestScore = 0;
  for (const source of first.sources.values()) {
    const score = scoreOf(
      source,
      instances[targets.indexOf(target)]?.sources.get(source.text)?.value,
      target,
      member,
      isVaried,
    );
    if (score <= bestScore) continue;
    if (!instances.every((instance, i) => isSame(instance.sources.get(source.text)?.value, targets[i]))) continue;
    best = source;
    bestScore = score;
  }
  if (best !== null) return `\${${best.text}}`;
  return isVaried ? explainWithDefault(targets, instances, member) : null;
}

function isEmpty(value: unknown): boolean {
  if (value === null || value === undefined || value === '') return true;
  return typeof value === 'object' && Object.keys(value).length === 0;
}

/** Nothing can be told from empty values, but that a list of the same name was empty each time. */
function explainEmpty(targets: readonly unknown[], instances: readonly Instance[], member: string): string | null {
  if (!targets.every(Array.isArray)) return null;
  const lists = [...(instances[0]?.sources.values() ?? [])].filter(
    ({ text, name }) => text.startsWith('let.') && normalize(name) === normalize(member),
  );
  const same = lists.find(({ text }) =>
    instances.every(({ sources }, i) => isSame(sources.get(text)?.value, targets[i])),
  );
  return same === undefined ? null : `\${${same.text}}`;
}

/** How much speaks for a source: its name, that it goes along when the value varies, that no other thing is called so. */
function scoreOf({ name, text }: Source, value: unknown, target: unknown, member: string, isVaried: boolean): number {
  if (typeof value !== typeof target) return 0;
  const isNamed = name !== '' && normalize(name) === normalize(member);
  if (typeof target === 'object') {
    const isListed = Array.isArray(target) && text.startsWith('let.');
    return isNamed || isVaried || isListed || Object.keys(target as object).length > 1 ? 3 : 0;
  }
  return (isNamed || isCount(text, member) ? 3 : 0) + (isVaried ? 2 : 0) + (isSpecific(target) ? 1 : 0);
}

function isCount(text: string, member: string): boolean {
  return text.startsWith('size(') && /(total|count|size|length|found|hits|number)/i.test(member);
}

/** A value that is unlikely to be the same by chance. */
export function isSpecific(value: unknown): boolean {
  if (typeof value === 'number') return Math.abs(value) >= 1000;
  if (typeof value !== 'string') return false;
  const shape = shapeOf(value);
  if (shape === 'word') return value.length >= 4 && /[A-Z]/.test(value);
  return shape === 'number' ? value.length >= 4 : value.length >= 2;
}

/** What the call says, or a fixed value where it does not say. */
function explainWithDefault(
  targets: readonly unknown[],
  instances: readonly Instance[],
  member: string,
): string | null {
  const texts = new Set(
    instances.flatMap(({ sources }) =>
      [...sources.values()]
        .filter(({ text, name }) => /^(number\()?call\./.test(text) && isSameParameter(name, member))
        .map(({ text }) => text),
    ),
  );
  for (const text of texts) {
    const said = instances.map(({ sources }) => sources.get(text)?.value ?? null);
    const silent = targets.filter((_, i) => said[i] === null);
    const [other] = silent;
    const isLiteral = typeof other === 'string' || typeof other === 'number' || typeof other === 'boolean';
    if (!isLiteral || !silent.every((target) => target === other)) continue;
    if (!targets.every((target, i) => said[i] === null || isSame(said[i], target))) continue;
    const fixed = typeof other === 'string' ? quote(other) : String(other);
    const inner = /^number\((.*)\)$/.exec(text)?.[1];
    return inner === undefined
      ? `\${${optionalRead(text)}.orValue(${fixed})}`
      : `\${number(${optionalRead(inner)}.orValue(${fixed}))}`;
  }
  return null;
}

/** A number that went up by the same step from what the row had: a version, a count. */
function explainCount(targets: readonly unknown[], instances: readonly Instance[], member: string): string | null {
  const text = `row${/^[A-Za-z_]\w*$/.test(member) ? `.${member}` : `[${quote(member)}]`}`;
  const steps = targets.map((target, i) => {
    const before = instances[i]?.sources.get(text)?.value;
    return typeof target === 'number' && typeof before === 'number' ? target - before : null;
  });
  const [step] = steps;
  if (step === null || step === undefined || step === 0 || !steps.every((other) => other === step)) return null;
  if (!Number.isInteger(step) || Math.abs(step) > 1000) return null;
  return `\${${text} ${step > 0 ? '+' : '-'} ${Math.abs(step)}}`;
}
