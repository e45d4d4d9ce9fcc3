import type { Comparison } from '../../definition/comparison.js';
import { isJsonMap } from '../../definition/json-map.js';
import type { CaseDefinition } from '../../definition/service-file.js';
import { placesOf, type When } from '../../definition/when.js';
import { matchLike } from '../../matching/comparing/like.js';
import type { CompiledOperation, CompiledService } from '../../matching/compile-service.js';
import { changeXml } from '../../xml/change-xml.js';
import type { Namespaces } from '../../xml/compile-xpath.js';
import type { IndexedOperation } from './contract-index.js';
import { copyParts, emptyParts, renderSample, type SampleCall, type SampleParts } from './sample-parts.js';

/**
 * Calls that may lead to a case, the likeliest first: what the contract asks for with what the case's conditions ask for,
 * then with less and less of what the contract asks for.
 */
export function sampleCalls(
  operation: IndexedOperation | null,
  service: CompiledService,
  target: CompiledOperation,
  definition: CaseDefinition,
): SampleCall[] {
  const [full = emptyParts(), ...others] = operation?.samples() ?? [];
  addWhatOthersMiss(full, target);
  const samples: SampleParts[] = [
    full,
    { ...full, body: null },
    { ...full, query: new Map(), body: null },
    { ...full, headers: new Map(), cookies: new Map() },
    { ...emptyParts(), path: full.path },
    ...others,
  ];
  const { namespaces = {} } = service.definition;
  const unknowns = unknownTexts(operation, service, target);
  return samples.flatMap((sample) => {
    const own = copyParts(sample);
    addRowKeys(own, service, target);
    for (const [place, comparison] of askedOf(definition.when))
      applyCondition(own, place, comparison, namespaces, () => operation?.alternatives(place) ?? []);
    applySample(own, definition, namespaces);
    const unknown = copyParts(own);
    for (const [name, text] of unknowns)
      if (definition.when?.[`path ${name}`] === undefined && definition.sample?.path?.[name] === undefined)
        unknown.path.set(name, text);
    return [renderSample(target.address, own), renderSample(target.address, unknown)];
  });
}

/** The conditions that a call has to meet: of `any`, the first of its maps. */
function askedOf(when: When | undefined): (readonly [place: string, comparison: Comparison])[] {
  const [first] = Array.isArray(when?.['any']) ? (when['any'] as readonly When[]) : [];
  return [...placesOf(when), ...(first === undefined ? [] : askedOf(first))];
}

/** Texts of a path that name nothing that is there: such as the contract allows, where it has some. */
function unknownTexts(
  operation: IndexedOperation | null,
  service: CompiledService,
  { name, address }: CompiledOperation,
): ReadonlyMap<string, string> {
  const pick = service.definition.operations[name]?.row;
  const rows = pick === undefined ? [] : (service.start.datasets.get(pick.of)?.list() ?? []);
  const known = new Set(rows.flatMap((row) => Object.values(row).map(String)));
  const find = (own: string) =>
    rows.length === 0 ? undefined : operation?.alternatives(`path ${own}`).find((text) => !known.has(text));
  return new Map(address.names.map((own) => [own, find(own) ?? 'none-of-these']));
}

/** What the case itself says of its call. */
function applySample(parts: SampleParts, { sample }: CaseDefinition, namespaces: Namespaces): void {
  if (sample === undefined) return;
  for (const [place, texts] of [
    ['path', sample.path],
    ['query', sample.query],
    ['header', sample.headers],
  ] as const)
    for (const [name, text] of Object.entries(texts ?? {}))
      setText(parts, place, place === 'header' ? name.toLowerCase() : name, String(text));
  for (const [path, text] of Object.entries(sample.xml ?? {})) setXml(parts, path, String(text), namespaces);
  if (sample.json !== undefined) parts.body = { type: parts.body?.type ?? 'application/json', value: sample.json };
}

/** What other cases ask to be missing is there: credentials that a contract does not speak of. */
function addWhatOthersMiss(sample: SampleParts, { cases }: CompiledOperation): void {
  for (const {
    definition: { when },
  } of cases)
    for (const [place, comparison] of placesOf(when)) {
      if (!isJsonMap(comparison) || comparison['present'] !== false) continue;
      const [kind = '', field = ''] = place.split(' ');
      if (kind !== 'path' && getText(sample, kind, field) === undefined) setText(sample, kind, field, 'Bearer sample');
    }
}

function getText(sample: SampleParts, place: string, name: string): string | undefined {
  return place === 'query' ? sample.query.get(name)?.[0] : mapOf(sample, place)?.get(name);
}

function setText(sample: SampleParts, place: string, name: string, text: string | null): void {
  if (text === null) {
    sample.query.delete(place === 'query' ? name : '');
    mapOf(sample, place)?.delete(name);
  } else if (place === 'query') sample.query.set(name, [text]);
  else mapOf(sample, place)?.set(name, text);
}

function mapOf({ path, headers, cookies }: SampleParts, place: string): Map<string, string> | undefined {
  const maps: Readonly<Record<string, Map<string, string>>> = { path, header: headers, cookie: cookies };
  return maps[place];
}

/** A row that is there: the first of the dataset that the operation picks from. */
function addRowKeys(sample: SampleParts, service: CompiledService, { name }: CompiledOperation): void {
  const pick = service.definition.operations[name]?.row;
  const row = pick === undefined ? undefined : service.start.datasets.get(pick.of)?.list()[0];
  for (const [field, text] of Object.entries(pick?.where ?? {})) {
    const [, group = '', member = ''] = /^\$\{call\.(path|query|json)\.(\w+)\}$/.exec(String(text)) ?? [];
    if (row?.[field] === undefined || member === '') continue;
    if (group === 'json') setMember(sample, `$.${member}`, row[field]);
    else setText(sample, group, member, String(row[field]));
  }
}

const NOTHING: unique symbol = Symbol('nothing');

/** What stands at a place so that the comparison holds; undefined: anything may; `NOTHING`: nothing must. */
function valueFor(comparison: unknown): unknown {
  if (!isJsonMap(comparison)) return comparison;
  const { is, in: list, like, starts, ends, has, above, below, from, to, present } = comparison;
  if (present === false) return NOTHING;
  if (is !== undefined) return is;
  if (Array.isArray(list)) return list[0];
  if (typeof like === 'string') return like.replaceAll('*', 'a').replaceAll('?', 'a');
  if (typeof above === 'number') return above + 1;
  if (typeof below === 'number') return below - 1;
  return from ?? to ?? starts ?? ends ?? has ?? (present === true ? 'x' : undefined);
}

function applyCondition(
  sample: SampleParts,
  place: string,
  comparison: unknown,
  namespaces: Namespaces,
  alternatives: () => readonly string[],
): void {
  const [kind = '', ...rest] = place.split(' ');
  const name = rest.join(' ');
  const value = valueFor(comparison);
  if (value === undefined) return;
  if (kind === 'json') {
    setMember(sample, name, value);
    return;
  }
  if (kind === 'xml') {
    setXml(sample, name, value === NOTHING ? null : value === 'x' ? undefined : String(value), namespaces);
    return;
  }
  const key = kind === 'header' ? name.toLowerCase() : name;
  const before = getText(sample, kind, key);
  const like = isJsonMap(comparison) ? comparison['like'] : undefined;
  if (typeof like === 'string') {
    const fitting = [before ?? '', ...alternatives()].find((own) => own !== '' && matchLike(own, like));
    setText(sample, kind, key, fitting ?? String(value));
  } else if (value === NOTHING) setText(sample, kind, key, null);
  else if (value !== 'x' || before === undefined) setText(sample, kind, key, String(value));
}

/** `$.vessel.imo`: members only; other paths are left as they are. */
function setMember(sample: SampleParts, path: string, value: unknown): void {
  const steps = /^\$((?:\.[A-Za-z_]\w*)+)$/.exec(path)?.[1]?.slice(1).split('.');
  if (steps === undefined) return;
  const body = isJsonMap(sample.body?.value) ? sample.body.value : {};
  sample.body = { type: sample.body?.type ?? 'application/json', value: body };
  let at = body as Record<string, unknown>;
  for (const step of steps.slice(0, -1)) {
    if (!isJsonMap(at[step])) at[step] = {};
    at = at[step] as Record<string, unknown>;
  }
  const last = steps.at(-1) ?? '';
  if (value === NOTHING) delete at[last];
  else if (value !== 'x' || at[last] === undefined) at[last] = value;
}

/** Another text in the body's XML; undefined: any will do. */
function setXml(sample: SampleParts, path: string, text: string | null | undefined, namespaces: Namespaces): void {
  if (text === undefined || typeof sample.body?.value !== 'string') return;
  sample.body = { type: sample.body.type, value: changeXml(sample.body.value, path, namespaces, text) };
}
