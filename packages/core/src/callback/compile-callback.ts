import { compileAnswer } from '../answer/compile-answer.js';
import { compileText, type TextScope } from '../answer/compile-text.js';
import type { CallbackDefinition } from '../definition/callback.js';
import { MS_PER_SECOND, parseDuration } from '../definition/duration.js';
import type { ThenStep } from '../definition/then-step.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { Evaluate, Frame } from '../expression/frame.js';
import { OMIT, toText } from '../expression/value.js';
import { compileSign } from './compile-sign.js';

/** A callback as one call asks for it: decided with the call, sent once its answer is. */
export interface PlannedCallback {
  readonly to: string;
  readonly method: string;
  /** Flat: name, value, name, value. */
  readonly headers: readonly string[];
  readonly body: string | Uint8Array | null;
  /** From the end of the answer. */
  readonly afterMs: number;
  /** How often it is tried in all, and the first of the gaps between, each of which is twice the one before. */
  readonly tries: number;
  readonly gapMs: number;
}

/** Null: the call names nobody to call back. */
export type CompiledCallback = (frame: Frame) => PlannedCallback | null;

const USUAL_GAP_MS = MS_PER_SECOND;

/** The callbacks of a case, in order; null when there are none. */
export function compileCallbacks(
  steps: readonly ThenStep[] | undefined,
  path: readonly PathKey[],
  scope: TextScope,
): readonly CompiledCallback[] | null {
  const callbacks = (steps ?? []).flatMap(({ callback }, i) =>
    callback === undefined ? [] : [compileCallback(callback, [...path, i, 'callback'], scope)],
  );
  return callbacks.length === 0 ? null : callbacks;
}

function compileCallback(definition: CallbackDefinition, path: readonly PathKey[], scope: TextScope): CompiledCallback {
  const { to, method = 'POST', headers, json, xml, text, form, sign, after, tries = 1, gap } = definition;
  const address = compileText(to, [...path, 'to'], scope);
  const readAddress: Evaluate = address.kind === 'constant' ? () => address.text : address.evaluate;
  const isEmpty = [json, xml, text, form].every((own) => own === undefined);
  // What is sent has the forms of an answer's body.
  const message = compileAnswer({ headers, json, xml, text, form, ...(isEmpty ? { none: true } : {}) }, path, scope);
  const signing = sign === undefined ? null : compileSign(sign, [...path, 'sign'], scope);
  const afterMs = parseDuration(after ?? '0ms') ?? 0;
  const gapMs = parseDuration(gap ?? '') ?? USUAL_GAP_MS;
  return (frame) => {
    const url = readAddress(frame);
    if (url === null || url === OMIT || url === '') return null;
    const { headers: plain, body } = message.constant ?? message.render(frame);
    const sent = signing === null ? plain : [...plain, ...signing(frame, body)];
    return { to: toText(url), method, headers: sent, body, afterMs, tries, gapMs };
  };
}
