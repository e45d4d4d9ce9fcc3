import { generateValue } from '../contract/generate-value.js';
import { isMap, type JsonMap, type OpenApiDocument } from '../contract/openapi-document.js';
import { escapeTemplates } from '../expression/template.js';
import { uniqueName } from './unique-name.js';

/** One case drafted from a contract's response, and what it was made from. */
export interface ContractCase {
  readonly definition: Record<string, unknown>;
  readonly from: 'example' | 'schema' | 'nothing';
}

type Report = (reason: string, where: readonly string[]) => void;

/** The header by which a caller asks for one of the cases that the call itself does not lead to. */
export const CASE_HEADER = 'upsetter-case';

interface Body {
  readonly name: string;
  readonly value: unknown;
  readonly from: ContractCase['from'];
}

/**
 * The cases of one operation of a contract. The first example of the first success is the fall-back and stands last;
 * the others stand before it, each with a condition: the parameter whose value the example repeats, else the case header.
 */
export function draftResponses(
  document: OpenApiDocument,
  operation: JsonMap,
  on: string,
  report: Report,
): ContractCase[] {
  const responses = isMap(operation['responses']) ? operation['responses'] : {};
  const codes = Object.keys(responses).sort(bySuccess);
  if (codes.length === 0) report('the operation has no responses', ['responses']);
  const pathNames = [...on.matchAll(/\{([^}]+)\}/g)].map((match) => match[1] ?? '');
  const taken = new Set<string>();
  const cases = codes
    .flatMap((code) =>
      draftResponse(document, responses[code], code, { on, pathNames }, (reason) =>
        report(reason, ['responses', code]),
      ),
    )
    .map((item) => ({
      ...item,
      definition: { ...item.definition, case: uniqueName(String(item.definition['case']), taken) },
    }));
  const [fallback, ...others] = cases;
  if (fallback === undefined) return [];
  return [...others.map((item) => withCondition(item, pathNames)), fallback].map(({ definition, from }) => ({
    definition,
    from,
  }));
}

interface NamedCase extends ContractCase {
  readonly body: unknown;
}

function draftResponse(
  document: OpenApiDocument,
  raw: unknown,
  code: string,
  address: { on: string; pathNames: readonly string[] },
  report: (reason: string) => void,
): NamedCase[] {
  const response = document.resolve(raw);
  if (!isMap(response)) {
    report('its $ref leads nowhere (references to other files are not supported yet)');
    return [];
  }
  const status = statusOf(code);
  if (status === null) {
    report(`the status ${code} cannot be answered by a case`);
    return [];
  }
  const [type, media] = chooseMedia(document, response);
  const bodies =
    media === null
      ? [{ name: code, value: undefined, from: 'nothing' as const }]
      : readBodies(document, media, code, address);
  return bodies.map((body) => ({
    from: body.from,
    body: body.value,
    definition: { case: body.name, answer: { status, ...buildAnswer(type, body.value) } },
  }));
}

/** 2xx first, then in order, `default` last. */
function bySuccess(a: string, b: string): number {
  const rank = (code: string) => (code.startsWith('2') ? 0 : code === 'default' ? 2 : 1);
  return rank(a) - rank(b) || a.localeCompare(b);
}

/** The status to answer with; null for one that is none of an answer's. */
function statusOf(code: string): number | null {
  if (/^[2-5]\d\d$/.test(code)) return Number(code);
  if (/^[2-5]XX$/i.test(code)) return Number(code[0]) * 100;
  return code === 'default' ? 500 : null;
}

function chooseMedia(document: OpenApiDocument, response: JsonMap): [string, JsonMap | null] {
  const content = isMap(response['content']) ? response['content'] : {};
  const types = Object.keys(content);
  const type = types.find((name) => /json/i.test(name)) ?? types[0];
  const media = type === undefined ? null : document.resolve(content[type]);
  return [type ?? '', isMap(media) ? media : null];
}

function readBodies(
  document: OpenApiDocument,
  media: JsonMap,
  code: string,
  address: { on: string; pathNames: readonly string[] },
): Body[] {
  const named = isMap(media['examples']) ? Object.entries(media['examples']) : [];
  const examples = named.flatMap(([name, raw]) => {
    const example = document.resolve(raw);
    return isMap(example) && example['value'] !== undefined
      ? [{ name, value: escapeTemplates(example['value']), from: 'example' as const }]
      : [];
  });
  if (examples.length > 0) return examples;
  if (media['example'] !== undefined)
    return [{ name: nameByCode(code), value: escapeTemplates(media['example']), from: 'example' }];
  const schema = media['schema'];
  if (schema === undefined) return [{ name: nameByCode(code), value: undefined, from: 'nothing' }];
  const value = escapeTemplates(generateValue(document, schema, `${address.on} ${code}`));
  return [{ name: nameByCode(code), value: agreeWithPath(value, address.pathNames), from: 'schema' }];
}

function nameByCode(code: string): string {
  return code.startsWith('2') ? 'as documented' : code;
}

/** A generated answer repeats the id it was asked for: `GET /berths/N7` answers `id: N7`. */
function agreeWithPath(value: unknown, pathNames: readonly string[]): unknown {
  const last = pathNames.at(-1);
  if (last === undefined || !isMap(value)) return value;
  const member = Object.hasOwn(value, last) ? last : /id$/i.test(last) && Object.hasOwn(value, 'id') ? 'id' : null;
  if (member === null || typeof value[member] !== 'string') return value;
  const read = /^\w+$/.test(last) ? `call.path.${last}` : `call.path['${last}']`;
  return { ...value, [member]: `\${${read}}` };
}

function buildAnswer(type: string, value: unknown): Record<string, unknown> {
  if (value === undefined) return { none: true };
  if (/^application\/problem\+json/i.test(type) && isMap(value)) return { problem: value };
  if (/json/i.test(type) || typeof value !== 'string') {
    return { ...(/^application\/json$/i.test(type) ? {} : { headers: { 'content-type': type } }), json: value };
  }
  return { ...(/^text\/plain$/i.test(type) ? {} : { headers: { 'content-type': type } }), text: value };
}

function withCondition(item: NamedCase, pathNames: readonly string[]): NamedCase {
  const { case: name, answer } = item.definition as { case: string; answer: unknown };
  const byPath = pathNames.length === 0 || item.from !== 'example' ? null : repeatedParameter(item.body, pathNames);
  const when = byPath ?? { [`header ${CASE_HEADER}`]: name };
  return { ...item, definition: { case: name, when, answer } };
}

/** The path parameter whose value the example shows: member of its name, or `id` for a parameter that ends so. */
function repeatedParameter(body: unknown, pathNames: readonly string[]): Record<string, string> | null {
  if (!isMap(body)) return null;
  for (const name of pathNames) {
    const value = body[name] ?? (/id$/i.test(name) ? body['id'] : undefined);
    if (typeof value === 'string' && !value.includes('${')) return { [`path ${name}`]: value };
  }
  return null;
}
