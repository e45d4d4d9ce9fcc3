import { isJsonMap } from '../../definition/json-map.js';
import type { CaseDefinition } from '../../definition/service-file.js';
import type { CompiledOperation, CompiledService } from '../../matching/compile-service.js';
import { matchLike } from '../../matching/like.js';
import { RequestView } from '../../request/request-view.js';
import type { Contract } from '../contract.js';
import type { ContractOperation } from '../contract-operation.js';
import { generateValue } from '../generate-value.js';

/** A call that is made up to lead to a case. */
interface Sample {
  readonly path: Map<string, string>;
  readonly query: Map<string, string>;
  readonly headers: Map<string, string>;
  readonly cookies: Map<string, string>;
  json: unknown;
}

/**
 * Calls that may lead to a case, the likeliest first: what the contract asks for with what the case's conditions ask for,
 * then with less and less of what the contract asks for.
 */
export function sampleCalls(
  contract: Contract | null,
  operation: ContractOperation | null,
  service: CompiledService,
  target: CompiledOperation,
  definition: CaseDefinition,
): RequestView[] {
  const full = startFrom(contract, operation);
  addWhatOthersMiss(full, service, target);
  const samples: Sample[] = [
    full,
    { ...full, json: undefined },
    { ...full, query: new Map(), json: undefined },
    { ...full, headers: new Map(), cookies: new Map() },
    { path: full.path, query: new Map(), headers: new Map(), cookies: new Map(), json: undefined },
  ];
  return samples.flatMap((sample) => {
    const own = copy(sample);
    addRowKeys(own, service, target);
    for (const [place, comparison] of Object.entries(definition.when ?? {}))
      applyCondition(own, place, comparison, () => alternativesFor(contract, operation, place));
    const unknown = copy(own);
    for (const { name } of target.address.segments.flatMap((segment) => (segment.kind === 'literal' ? [] : [segment])))
      if (definition.when?.[`path ${name}`] === undefined) unknown.path.set(name, 'none-of-these');
    return [toRequest(target, own), toRequest(target, unknown)];
  });
}

function copy({ path, query, headers, cookies, json }: Sample): Sample {
  return {
    path: new Map(path),
    query: new Map(query),
    headers: new Map(headers),
    cookies: new Map(cookies),
    json: structuredClone(json),
  };
}

/** What a contract asks for: required parameters, credentials, the body. */
function startFrom(contract: Contract | null, operation: ContractOperation | null): Sample {
  const sample: Sample = { path: new Map(), query: new Map(), headers: new Map(), cookies: new Map(), json: undefined };
  if (contract === null || operation === null) return sample;
  for (const { place, name, isRequired, schema, examples } of operation.parameters) {
    if (!isRequired) continue;
    const value =
      examples[0]?.value ?? (schema === null ? 'x' : generateValue(contract, schema, `sample ${name}`, 'request'));
    const text = value !== null && typeof value === 'object' ? JSON.stringify(value) : String(value);
    placeMap(sample, place)?.set(place === 'header' ? name.toLowerCase() : name, text);
  }
  for (const { place } of operation.security[0] ?? []) {
    const [kind = '', name = ''] = (place ?? '').split(' ');
    placeMap(sample, kind)?.set(name, 'Bearer sample');
  }
  const media = operation.body?.media.find(({ type }) => /json/i.test(type));
  if (media !== undefined)
    sample.json =
      media.examples[0]?.value ??
      (media.schema === null ? {} : generateValue(contract, media.schema, 'sample body', 'request'));
  return sample;
}

function placeMap(sample: Sample, place: string): Map<string, string> | null {
  const maps: Readonly<Record<string, Map<string, string>>> = {
    path: sample.path,
    query: sample.query,
    header: sample.headers,
    cookie: sample.cookies,
  };
  return maps[place] ?? null;
}

/** What other cases ask to be missing is there: credentials that a contract does not speak of. */
function addWhatOthersMiss(sample: Sample, service: CompiledService, { name }: CompiledOperation): void {
  for (const { when } of service.definition.operations[name]?.cases ?? [])
    for (const [place, comparison] of Object.entries(when ?? {})) {
      if (!isJsonMap(comparison) || comparison['present'] !== false) continue;
      const [kind = '', field = ''] = place.split(' ');
      const map = kind === 'path' ? null : placeMap(sample, kind);
      if (map !== null && !map.has(field)) map.set(field, 'Bearer sample');
    }
}

const MOST_ALTERNATIVES = 24;

/** Values that a contract allows at a place. */
function alternativesFor(contract: Contract | null, operation: ContractOperation | null, place: string): string[] {
  const parameter = operation?.parameters.find((own) => `${own.place} ${own.name}` === place);
  const schema = parameter?.schema ?? null;
  if (contract === null || schema === null) return [];
  return Array.from({ length: MOST_ALTERNATIVES }, (_, i) =>
    String(generateValue(contract, schema, `sample ${place} ${i}`, 'request')),
  );
}

/** A row that is there: the first of the dataset that the operation picks from. */
function addRowKeys(sample: Sample, service: CompiledService, { name }: CompiledOperation): void {
  const pick = service.definition.operations[name]?.row;
  const row = pick === undefined ? undefined : service.start.datasets.get(pick.of)?.list()[0];
  for (const [field, text] of Object.entries(pick?.where ?? {})) {
    const [, group = '', member = ''] = /^\$\{call\.(path|query|json)\.(\w+)\}$/.exec(String(text)) ?? [];
    if (row?.[field] === undefined || member === '') continue;
    if (group === 'json') setMember(sample, `$.${member}`, row[field]);
    else placeMap(sample, group)?.set(member, String(row[field]));
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
  sample: Sample,
  place: string,
  comparison: unknown,
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
  const map = placeMap(sample, kind);
  const key = kind === 'header' ? name.toLowerCase() : name;
  const like = isJsonMap(comparison) ? comparison['like'] : undefined;
  if (typeof like === 'string') {
    const fitting = [map?.get(key) ?? '', ...alternatives()].find((own) => own !== '' && matchLike(own, like));
    map?.set(key, fitting ?? String(value));
  } else if (value === NOTHING) map?.delete(key);
  else if (value === 'x' && map?.has(key) === true) return;
  else map?.set(key, String(value));
}

/** `$.vessel.imo`: members only; other paths are left as they are. */
function setMember(sample: Sample, path: string, value: unknown): void {
  const steps = /^\$((?:\.[A-Za-z_]\w*)+)$/.exec(path)?.[1]?.slice(1).split('.');
  if (steps === undefined) return;
  if (!isJsonMap(sample.json)) sample.json = {};
  let at = sample.json as Record<string, unknown>;
  for (const step of steps.slice(0, -1)) {
    if (!isJsonMap(at[step])) at[step] = {};
    at = at[step] as Record<string, unknown>;
  }
  const last = steps.at(-1) ?? '';
  if (value === NOTHING) delete at[last];
  else if (value !== 'x' || at[last] === undefined) at[last] = value;
}

/** A moment all samples are sent at, so that answers are the same each time. */
const SAMPLED_AT_MS = Date.UTC(2026, 2, 1, 8);

function toRequest({ address }: CompiledOperation, { path, query, headers, cookies, json }: Sample): RequestView {
  const segments = address.segments.map((segment) =>
    segment.kind === 'literal' ? encodeURIComponent(segment.text) : encodeURIComponent(path.get(segment.name) ?? 'x1'),
  );
  const search = query.size === 0 ? '' : `?${new URLSearchParams([...query])}`;
  const cookie = [...cookies].map(([name, value]) => `${name}=${value}`).join('; ');
  const flat = [
    ...[...headers].flat(),
    ...(cookie === '' ? [] : ['cookie', cookie]),
    ...(json === undefined ? [] : ['content-type', 'application/json']),
  ];
  const method = address.method === '*' ? 'GET' : address.method;
  const request = new RequestView('sample', method, `/${segments.join('/')}${search}`, flat, SAMPLED_AT_MS);
  if (json !== undefined) request.body = new TextEncoder().encode(JSON.stringify(json));
  return request;
}
