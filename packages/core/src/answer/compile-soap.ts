import type { Answer, SoapBody, SoapFaultBody } from '../definition/answer.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { Frame } from '../expression/frame.js';
import { toText } from '../expression/value.js';
import { answerWithEnvelope, renderEnvelope } from '../soap/render-envelope.js';
import { renderFault, statusOfFault } from '../soap/render-fault.js';
import { type CompiledMarkup, compileMarkup } from './compile-markup.js';
import { compileText, type TextScope } from './compile-text.js';
import type { RenderedAnswer } from './rendered-answer.js';

/** The status and the headers that a file gives an answer, as they come out for a call; a status of null: none is given. */
export interface SoapHead {
  readonly status: (frame: Frame) => number | null;
  readonly headers: (frame: Frame) => readonly string[];
}

/** An answer in an envelope of the version that the caller speaks; null where it has none. */
export function compileSoap(
  { soap, soapFault }: Answer,
  head: SoapHead,
  path: readonly PathKey[],
  scope: TextScope,
): ((frame: Frame) => RenderedAnswer) | null {
  if (soap !== undefined) return compileContent(soap, head, [...path, 'soap'], scope);
  return soapFault === undefined ? null : compileFault(soapFault, head, [...path, 'soapFault'], scope);
}

const OK = 200;

function compileContent(soap: SoapBody, head: SoapHead, path: readonly PathKey[], scope: TextScope) {
  const isPlain = typeof soap === 'string';
  const header = isPlain ? '' : compileMarkup(soap.header ?? '', 'content', [...path, 'header'], scope);
  const body = isPlain
    ? compileMarkup(soap, 'content', path, scope)
    : compileMarkup(soap.body, 'content', [...path, 'body'], scope);
  return (frame: Frame): RenderedAnswer => {
    const version = frame.request.soapVersion();
    const envelope = renderEnvelope(version, render(header, frame), render(body, frame));
    return answerWithEnvelope(version, head.status(frame) ?? OK, head.headers(frame), envelope);
  };
}

function compileFault(fault: SoapFaultBody, head: SoapHead, path: readonly PathKey[], scope: TextScope) {
  const { code = 'sender' } = fault;
  const text = (key: 'subcode' | 'reason' | 'actor'): CompiledMarkup | null => {
    const own = fault[key];
    if (own === undefined) return null;
    const compiled = compileText(own, [...path, key], scope);
    return compiled.kind === 'constant' ? compiled.text : (frame) => toText(compiled.evaluate(frame));
  };
  const [subcode, reason, actor] = [text('subcode'), text('reason'), text('actor')];
  const detail = fault.detail === undefined ? null : compileMarkup(fault.detail, 'content', [...path, 'detail'], scope);
  return (frame: Frame): RenderedAnswer => {
    const version = frame.request.soapVersion();
    const rendered = renderFault(version, {
      role: code,
      subcode: subcode === null ? null : render(subcode, frame),
      reason: reason === null ? '' : render(reason, frame),
      actor: actor === null ? null : render(actor, frame),
      detail: detail === null ? null : render(detail, frame),
    });
    const status = head.status(frame) ?? statusOfFault(version, code);
    return answerWithEnvelope(version, status, head.headers(frame), renderEnvelope(version, '', rendered));
  };
}

function render(markup: CompiledMarkup, frame: Frame): string {
  return typeof markup === 'string' ? markup : markup(frame);
}
