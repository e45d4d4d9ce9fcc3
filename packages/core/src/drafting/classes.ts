import { escapeTemplate, escapeTemplates } from '../expression/template.js';
import { setCookiesOf } from './credentials.js';
import type { CaseBody } from './draft-operation.js';
import type { Heard } from './heard.js';
import { readAnswer } from './heard-answer.js';
import { eachLeaf } from './leaves.js';
import type { Member } from './member.js';
import type { ValueFlow } from './value-flow.js';
import { isMadeShape, isMomentNear, shapeOf } from './value-shape.js';

/** All members of an operation that one case answers. */
export interface CaseClass {
  readonly body: CaseBody;
  readonly status: number;
  /** Indexes into the operation's members, in order. */
  readonly members: readonly number[];
}

/** Members whose case bodies are the same make a class. */
export function classify(
  members: readonly Member[],
  bodies: readonly CaseBody[],
  keys: readonly string[],
): CaseClass[] {
  const groups = new Map<string, number[]>();
  keys.forEach((key, i) => {
    const group = groups.get(key);
    if (group === undefined) groups.set(key, [i]);
    else group.push(i);
  });
  return [...groups.values()].map((indexes) => ({
    body: bodies[indexes[0] ?? 0] as CaseBody,
    status: members[indexes[0] ?? 0]?.heard.exchange.status ?? 200,
    members: indexes,
  }));
}

/** An answer kept as it was heard. */
export function heardBody(member: Member): CaseBody {
  const { status, headers, form, body } = readAnswer(member.heard);
  const written =
    form === 'none'
      ? true
      : form === 'json'
        ? escapeTemplates(body)
        : form === 'text'
          ? escapeTemplate(String(body))
          : body;
  return {
    answer: {
      status,
      ...(Object.keys(headers).length > 0 ? { headers: escapeTemplates(headers) } : {}),
      [form]: written,
    },
    steps: [],
  };
}

/** What makes two heard answers the same: status, type and body, but for values that were made for this answer alone. */
export function heardKey({ heard }: Member, flow: ValueFlow): string {
  const { status, contentType, body } = heard.exchange;
  const head = [status, contentType, ...usedLater(heard, flow)];
  if (heard.answerJson === undefined) return JSON.stringify([...head, body]);
  let text = JSON.stringify(heard.answerJson);
  eachLeaf(heard.answerJson, (value) => {
    if (isVolatile(value, heard.position, heard.atMs, flow)) text = text.replace(JSON.stringify(value), '~');
  });
  return JSON.stringify(head) + text;
}

/** What headers give that later calls carry: cookies, and the last word of the place of what was made. */
function usedLater(heard: Heard, flow: ValueFlow): string[] {
  const cookies = setCookiesOf(heard).map(({ value }) => value);
  const made = heard.location?.split(/[/?#]/).at(-1);
  const given = made === undefined ? cookies : [...cookies, made];
  return given.filter((value) => flow.isUsedAfter(value, heard.position));
}

/** Made on the spot, never shown or used again: the moment of the answer, a nonce, the number of a call. */
function isVolatile(value: unknown, position: number, atMs: number, flow: ValueFlow): boolean {
  if (!flow.isFresh(value, position) || flow.isUsedAfter(value, position) || flow.isShownAfter(value, position))
    return false;
  return isMomentNear(value, atMs) || isMadeShape(shapeOf(value));
}
