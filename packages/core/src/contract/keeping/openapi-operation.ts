import type { RenderedAnswer } from '../../answer/rendered-answer.js';
import type { Answer } from '../../definition/answer.js';
import { type OperationAddress, parseOperationAddress } from '../../matching/path-template.js';
import type { Contract } from '../contract.js';
import type { ContractOperation } from '../contract-operation.js';
import { generateValue } from '../generate-value.js';
import { type ContractLink, type ExchangedCall, followLinks, type LinkedValue, readLinks } from '../read-links.js';
import { checkAnswer, findResponse } from './check-answer.js';
import { type CheckCall, compileCallCheck } from './compile-call-check.js';
import type { HostileCall, IndexedOperation, IndexedResponse } from './contract-index.js';
import { hostileCalls } from './hostile-calls.js';
import { type SampleParts, sampleParts } from './sample-parts.js';
import type { SchemaFinding, SchemaValidator } from './schema-validator.js';

const MOST_ALTERNATIVES = 24;
const OK = 200;

/** An operation of an OpenAPI or Swagger contract. */
export class OpenApiOperation implements IndexedOperation {
  readonly on: string;
  readonly id: string | null;
  readonly address: OperationAddress | null;
  readonly contract: Contract;
  readonly operation: ContractOperation;
  readonly #validator: SchemaValidator;
  #check: CheckCall | null = null;
  #links: readonly ContractLink[] | null = null;

  constructor(contract: Contract, operation: ContractOperation, validator: SchemaValidator) {
    this.contract = contract;
    this.operation = operation;
    this.#validator = validator;
    this.on = `${operation.method} ${operation.path}`;
    this.id = operation.id;
    const parsed = parseOperationAddress(this.on);
    this.address = parsed.kind === 'refused' ? null : parsed.address;
  }

  get at(): string {
    return this.contract.describe(this.operation.node);
  }

  get check(): CheckCall {
    this.#check ??= compileCallCheck(this.contract, this.operation, this.#validator);
    return this.#check;
  }

  get responses(): readonly IndexedResponse[] {
    return this.operation.responses
      .filter(({ code }) => /^[2-5](\d\d|XX)$/i.test(code))
      .map(({ code, node }) => ({ code, at: this.contract.describe(node) }));
  }

  checkAnswer(answer: RenderedAnswer): readonly SchemaFinding[] {
    return checkAnswer(this.contract, this.operation, answer, this.#validator);
  }

  responseOf({ status }: RenderedAnswer): string | null {
    return findResponse(this.operation, status)?.code ?? null;
  }

  guessResponse({ status = OK }: Answer): string | null {
    return findResponse(this.operation, Number(status))?.code ?? null;
  }

  samples(): readonly SampleParts[] {
    return [sampleParts(this.contract, this.operation)];
  }

  alternatives(place: string): readonly string[] {
    const schema = this.operation.parameters.find((own) => `${own.place} ${own.name}` === place)?.schema ?? null;
    if (schema === null) return [];
    return Array.from({ length: MOST_ALTERNATIVES }, (_, i) =>
      String(generateValue(this.contract, schema, `sample ${place} ${i}`, 'request')),
    );
  }

  linksOf(call: ExchangedCall): readonly LinkedValue[] {
    this.#links ??= readLinks(this.contract, this.operation);
    return this.#links.length === 0 ? [] : followLinks(this.contract, this.#links, call);
  }

  hostileCalls(address: OperationAddress): readonly HostileCall[] {
    return hostileCalls(this.contract, this.operation, address);
  }
}
