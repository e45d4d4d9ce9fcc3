import type { Contract, ContractNode } from '../contract/contract.js';
import type { ContractOperation, ContractResponse, NamedExample } from '../contract/contract-operation.js';
import { isJsonMap } from '../definition/json-map.js';
import { escapeTemplates } from '../expression/template.js';
import { buildAnswer, draftHeaders } from './contract-answer.js';
import { draftBodies } from './contract-bodies.js';
import { draftCallbacks } from './contract-callbacks.js';
import { findRefusal } from './contract-refusals.js';
import { pathOf } from './features.js';
import { uniqueName } from './unique-name.js';

/** One case drafted from a contract's response, and what it was made from. */
export interface ContractCase {
  readonly definition: Record<string, unknown>;
  readonly from: 'example' | 'schema' | 'stand-in' | 'nothing';
  /** What speaks against it. */
  readonly doubt?: string | null;
  /** The response it is of: `200`, `4XX`, `default`. */
  readonly code: string;
}

type Report = (node: ContractNode, reason: string) => void;
type When = Readonly<Record<string, unknown>>;

/** The header by which a caller asks for one of the cases that the call itself does not lead to. */
export const CASE_HEADER = 'upsetter-case';

interface Found extends ContractCase {
  readonly status: number;
  /** What leads to it; null: nothing in the call does. */
  readonly when: When | null;
}

/**
 * The cases of one operation of a contract: refusals that the call itself leads to, then what is asked for by the values
 * of examples or by the case header; the first success stands last and is the fall-back.
 */
export function draftCases(contract: Contract, operation: ContractOperation, report: Report): ContractCase[] {
  const codes = operation.responses.map(({ code }) => code);
  const ordered = [...operation.responses].sort(
    (a, b) => rankOf(a.code) - rankOf(b.code) || a.code.localeCompare(b.code),
  );
  const taken = new Set<string>();
  const found = ordered.flatMap((response) => draftResponse(contract, operation, response, codes, report));
  const named = found.map((item) => ({
    ...item,
    definition: { ...item.definition, case: uniqueName(String(item.definition['case']), taken) },
  }));
  const [fallback, ...others] = named;
  if (fallback === undefined) return [];
  const cases = [...others.sort((a, b) => orderOf(a) - orderOf(b)).map(withCondition), toCase(fallback, null)];
  const callbacks = draftCallbacks(contract, operation, report);
  return callbacks.length === 0 ? cases : cases.map((item) => withSteps(item, callbacks));
}

/** 2xx first, then in order, `default` last. */
function rankOf(code: string): number {
  return code.startsWith('2') ? 0 : code === 'default' ? 2 : 1;
}

/** What is asked for by name goes before everything; who calls is asked before what is sent; then examples by their values. */
function orderOf({ when, status }: Found): number {
  if (when === null) return 0;
  return status === 401 ? 1 : status >= 400 ? 2 : 3;
}

/** What goes well is followed by the callbacks. */
function withSteps(item: ContractCase, steps: readonly object[]): ContractCase {
  if (!item.code.startsWith('2')) return item;
  // biome-ignore lint/suspicious/noThenProperty: the word of the service file; a case is never awaited
  return { ...item, definition: { ...item.definition, then: steps } };
}

function withCondition(item: Found): ContractCase {
  return toCase(item, item.when ?? { [`header ${CASE_HEADER}`]: String(item.definition['case']) });
}

function toCase({ definition, from, code, doubt }: Found, when: When | null): ContractCase {
  const { case: name, ...rest } = definition;
  return { definition: { case: name, ...(when === null ? {} : { when }), ...rest }, from, code, doubt: doubt ?? null };
}

function draftResponse(
  contract: Contract,
  operation: ContractOperation,
  response: ContractResponse,
  codes: readonly string[],
  report: Report,
): Found[] {
  const { code } = response;
  const status = statusOf(code);
  if (status === null) {
    report(response.node, `the status ${code} cannot be answered by a case`);
    return [];
  }
  const refusal = status < 400 ? null : findRefusal(code, operation, contract, codes);
  const bodies = draftBodies(contract, operation, response, status, report);
  const headers = draftHeaders(contract, operation, response, bodies[0]?.value);
  const head = { code, status };
  if (bodies.length === 0) {
    const answer = { status, ...(Object.keys(headers).length > 0 ? { headers } : {}), none: true };
    return [{ ...head, from: 'nothing', when: refusal, definition: { case: nameByCode(code), answer } }];
  }
  return bodies.map((body) => ({
    ...head,
    from: body.from,
    doubt: body.doubt,
    when: refusal ?? (body.example === null ? null : findConditions(operation, body.example, status)),
    definition: { case: body.example?.name ?? nameByCode(code), answer: { status, ...buildAnswer(body, headers) } },
  }));
}

/** The status to answer with; null for one that is none of an answer's. */
function statusOf(code: string): number | null {
  if (/^[2-5]\d\d$/.test(code)) return Number(code);
  if (/^[2-5]XX$/i.test(code)) return Number(code[0]) * 100;
  return code === 'default' ? 500 : null;
}

function nameByCode(code: string): string {
  return code.startsWith('2') ? 'as documented' : code;
}

/**
 * What a call says when an example is meant: the values of the examples of the same name, else an id that it shows. A
 * refusal whose name is a success's, too, is not what is meant by them.
 */
function findConditions(operation: ContractOperation, example: NamedExample, status: number): When | null {
  if (status >= 400 && isNameOfSuccess(operation, example.name)) return null;
  const named = example.name === null ? null : conditionsByName(operation, example.name);
  if (named !== null) return named;
  for (const { name, place } of operation.parameters) {
    if (place !== 'path' || !isJsonMap(example.value)) continue;
    const value = example.value[name] ?? (/id$/i.test(name) ? example.value['id'] : undefined);
    if (typeof value === 'string' || typeof value === 'number') return { [`path ${name}`]: value };
  }
  return null;
}

function isNameOfSuccess({ responses }: ContractOperation, name: string | null): boolean {
  return responses.some(
    ({ code, media }) =>
      code.startsWith('2') && media.some(({ examples }) => examples.some((example) => example.name === name)),
  );
}

const MOST_MEMBERS = 12;

function conditionsByName({ parameters, body }: ContractOperation, name: string): When | null {
  const when: Record<string, unknown> = {};
  for (const parameter of parameters) {
    const own = parameter.examples.find((example) => example.name === name);
    if (own === undefined || (own.value !== null && typeof own.value === 'object')) continue;
    const field = parameter.place === 'header' ? parameter.name.toLowerCase() : parameter.name;
    when[`${parameter.place} ${field}`] = escapeTemplates(own.value);
  }
  for (const media of body?.media ?? []) {
    const sent = media.examples.find((example) => example.name === name)?.value;
    if (!/json/i.test(media.type) || !isJsonMap(sent)) continue;
    for (const [member, value] of Object.entries(sent).slice(0, MOST_MEMBERS))
      if (value === null || typeof value !== 'object') when[`json $${pathOf([member])}`] = escapeTemplates(value);
  }
  return Object.keys(when).length === 0 ? null : when;
}
