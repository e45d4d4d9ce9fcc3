import { RequestView } from '../../request/request-view.js';
import { answerWithEnvelope, renderEnvelope } from '../../soap/render-envelope.js';
import { parseXml } from '../../xml/parse-xml.js';
import { renderSample } from '../keeping/sample-parts.js';
import { makePart, prefixesOf } from '../wsdl/soap-sample.js';
import { writeMarkup } from '../wsdl/write-markup.js';
import type { WsdlOperation } from '../wsdl/wsdl-operation.js';
import type { ContractChange } from './contract-change.js';

type Found = Omit<ContractChange, 'on' | 'what'>;

/** How a SOAP operation is another than before, by what was valid: calls that were are not now, answers that are were not. */
export function compareSoapOperations(before: WsdlOperation, now: WsdlOperation): Found[] {
  const refused = unique(before.samples().flatMap((parts) => refusals(before, now, parts)));
  const surprising = unique(surprises(before, now));
  return [
    ...refused.map((message) => ({
      at: 'call',
      message: `a call as before is no longer valid: ${message}`,
      breaks: true,
    })),
    ...surprising.map((message) => ({ at: 'answer', message: `an answer is not as before: ${message}`, breaks: true })),
    ...compareFaults(before, now),
  ];
}

function refusals(before: WsdlOperation, now: WsdlOperation, parts: Parameters<typeof renderSample>[1]): string[] {
  if (before.address === null) return [];
  const { method, target, headers, body } = renderSample(before.address, parts);
  const request = new RequestView('sample', method, target, headers, 0);
  request.body = body;
  return (now.check(request, []) ?? []).map(({ at, message }) => `${at} ${message}`);
}

function surprises(before: WsdlOperation, now: WsdlOperation): string[] {
  const { output, versions } = now.operation;
  const made = output === null ? null : makePart(now.contract, output, 'compared');
  if (made === null) return [];
  const body = writeMarkup(made, prefixesOf(now.contract));
  if (parseXml(body).kind === 'broken') return [];
  const version = versions[0] ?? '1.1';
  const answer = answerWithEnvelope(version, 200, [], renderEnvelope(version, '', body));
  return before.checkAnswer(answer).map(({ at, message }) => `${at} ${message}`);
}

function compareFaults({ operation: old }: WsdlOperation, { operation: now }: WsdlOperation): Found[] {
  const names = (all: typeof old.faults): string[] => all.map(({ name }) => name);
  const [was, is] = [names(old.faults), names(now.faults)];
  return [
    ...was
      .filter((name) => !is.includes(name))
      .map((name) => ({ at: `fault ${name}`, message: 'is gone', breaks: false })),
    ...is
      .filter((name) => !was.includes(name))
      .map((name) => ({ at: `fault ${name}`, message: 'is new', breaks: false })),
  ];
}

function unique(messages: readonly string[]): string[] {
  return [...new Set(messages)];
}
