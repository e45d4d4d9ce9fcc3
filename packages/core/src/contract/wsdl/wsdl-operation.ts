import type { RenderedAnswer } from '../../answer/rendered-answer.js';
import type { Answer } from '../../definition/answer.js';
import { type OperationAddress, parseOn, type SoapOn } from '../../matching/path-template.js';
import type { CheckCall } from '../keeping/compile-call-check.js';
import type { HostileCall, IndexedOperation, IndexedResponse } from '../keeping/contract-index.js';
import { emptyParts, renderSample, type SampleParts } from '../keeping/sample-parts.js';
import type { SchemaFinding } from '../keeping/schema-validator.js';
import type { LinkedValue } from '../read-links.js';
import { checkSoapAnswer, readSoapAnswer } from './check-soap-answer.js';
import { compileSoapCallCheck } from './check-soap-call.js';
import type { MadeElement } from './generate-markup.js';
import type { SoapFaultPart, SoapOperation } from './read-soap-operations.js';
import { soapOnOf } from './soap-on.js';
import { writeSampleEnvelope } from './soap-sample.js';
import type { WsdlContract } from './wsdl-contract.js';
import { splitName } from './xml-tree.js';
import type { XsdValidator } from './xsd-validator.js';

/** What a SOAP operation answers when all is well. */
export const ANSWER = 'answer';

/** How many different calls are made up. */
const SAMPLES = 4;

/** An operation of a WSDL contract. */
export class WsdlOperation implements IndexedOperation {
  readonly on: string;
  readonly id: string;
  /** As a service file has it. */
  readonly soapOn: SoapOn;
  readonly address: OperationAddress | null;
  readonly contract: WsdlContract;
  readonly operation: SoapOperation;
  readonly #validator: XsdValidator;
  #check: CheckCall | null = null;

  /** `all`: the operations of the contract, this one among them. */
  constructor(
    contract: WsdlContract,
    operation: SoapOperation,
    all: readonly SoapOperation[],
    validator: XsdValidator,
  ) {
    this.contract = contract;
    this.operation = operation;
    this.#validator = validator;
    this.on = `POST ${operation.path} soap ${operation.name}`;
    this.id = operation.name;
    this.soapOn = soapOnOf(operation, all);
    const parsed = parseOn(this.soapOn);
    this.address = parsed.kind === 'refused' ? null : parsed.address;
  }

  get at(): string {
    return this.contract.describe(this.operation.node);
  }

  get check(): CheckCall {
    this.#check ??= compileSoapCallCheck(this.contract, this.operation, this.#validator);
    return this.#check;
  }

  get responses(): readonly IndexedResponse[] {
    const { output, isOneWay, faults, node } = this.operation;
    const answered = isOneWay ? [] : [{ code: ANSWER, at: this.contract.describe(output?.node ?? node) }];
    return [...answered, ...faults.map((fault) => ({ code: codeOf(fault), at: this.contract.describe(fault.node) }))];
  }

  checkAnswer(answer: RenderedAnswer): readonly SchemaFinding[] {
    return checkSoapAnswer(this.contract, this.operation, answer, this.#validator);
  }

  responseOf(answer: RenderedAnswer): string | null {
    const read = readSoapAnswer(answer);
    if (read.kind !== 'fault') return read.kind === 'broken' ? null : ANSWER;
    return this.#faultWith((element) => read.elements.includes(element));
  }

  guessResponse({ soapFault }: Answer): string | null {
    if (soapFault === undefined) return ANSWER;
    return this.#faultWith((element) => soapFault.detail?.includes(splitName(element)[1]) === true);
  }

  samples(): readonly SampleParts[] {
    return Array.from({ length: SAMPLES }, (_, turn) =>
      this.#parts(writeSampleEnvelope(this.contract, this.operation, this.#version(), turn)),
    );
  }

  alternatives(): readonly string[] {
    return [];
  }

  /** Envelopes that lack one element that the schemas ask for. */
  /** WSDL has none. */
  linksOf(): readonly LinkedValue[] {
    return [];
  }

  hostileCalls(address: OperationAddress): readonly HostileCall[] {
    const found: HostileCall[] = [];
    const seen = new Set<string>();
    writeSampleEnvelope(this.contract, this.operation, this.#version(), 0, (whole) => {
      for (const { name } of allBelow(whole)) {
        if (seen.has(name)) continue;
        seen.add(name);
        const envelope = writeSampleEnvelope(this.contract, this.operation, this.#version(), 0, (own) =>
          without(own, name),
        );
        if (this.#validator.checkEnvelope(envelope) === null) continue;
        found.push({ name: `without ${splitName(name)[1]}`, call: renderSample(address, this.#parts(envelope)) });
      }
      return whole;
    });
    return found;
  }

  #faultWith(isMeant: (element: string) => boolean): string | null {
    const fault = this.operation.faults.find(({ element }) => isMeant(element));
    return fault === undefined ? null : codeOf(fault);
  }

  #version() {
    return this.operation.versions[0] ?? '1.1';
  }

  #parts(envelope: string): SampleParts {
    const { action } = this.operation;
    const isOld = this.#version() === '1.1';
    return {
      ...emptyParts(),
      headers: new Map(isOld ? [['soapaction', `"${action}"`]] : []),
      body: {
        type: isOld ? 'text/xml; charset=utf-8' : `application/soap+xml; charset=utf-8; action="${action}"`,
        value: envelope,
      },
    };
  }
}

export function codeOf({ name }: SoapFaultPart): string {
  return `fault ${name}`;
}

function allBelow(element: MadeElement): MadeElement[] {
  return element.children.flatMap((child) => [child, ...allBelow(child)]);
}

function without(element: MadeElement, name: string): MadeElement {
  const children = element.children.filter((child) => child.name !== name).map((child) => without(child, name));
  return { ...element, children, text: element.text ?? (children.length === 0 ? '' : null) };
}
