import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { UpsetterClient } from '@upsetter/client';
import { type ContractIndex, type Draft, draftContract, openContract, RequestView, renderSample } from '@upsetter/core';
import { request } from 'undici';
import { parse } from 'yaml';
import { ResponseValidator } from './response-validator.js';

/** What became of one contract: counts, and what is wrong as lines. */
export interface PlayedContract {
  readonly name: string;
  readonly bytes: number;
  readonly draftMs: number;
  readonly operations: number;
  readonly answers: number;
  /** Answers that are examples of the contract and contradict its schemas: those that the draft has told. */
  doubted: number;
  readonly wrong: {
    readonly unusable: string[];
    /** Made-up calls that the contract does not allow. */
    readonly invalidCalls: string[];
    /** Calls that came back with a refusal. */
    readonly unanswered: string[];
    readonly invalidAnswers: string[];
    /** Schemas that the independent validator does not take. */
    readonly noSchemas: string[];
  };
}

const FOLLOWED = './contract.yaml';
const SERVICE = 'foreign';

/** Drafts a contract, saves the draft to a running service, calls each operation with a made-up valid call, and holds what comes back against the contract. */
export async function playContract(file: string, control: string): Promise<PlayedContract> {
  const text = await readFile(file, 'utf8');
  const startedMs = performance.now();
  const draft = draftContract(text, { service: SERVICE, port: 0, follow: FOLLOWED });
  const draftMs = performance.now() - startedMs;
  const client = new UpsetterClient(control);
  const files = { ...draft.files, [FOLLOWED]: { kind: 'text' as const, content: text } };
  const { address } = await client.saveService(SERVICE, draft.text, { files });
  const index = openContract(text);
  const player = new Player(index, new ResponseValidator(parse(text) as Record<string, unknown>), draft, address ?? '');
  for (const operation of index.operations) await player.play(operation);
  await client.removeService(SERVICE);
  const name = basename(file).replace(/\.(json|ya?ml)$/, '');
  const { answers, doubted, wrong } = player;
  return { name, bytes: text.length, draftMs, operations: index.operations.length, answers, doubted, wrong };
}

class Player {
  answers = 0;
  doubted = 0;
  readonly wrong: PlayedContract['wrong'];
  readonly #index: ContractIndex;
  readonly #validator: ResponseValidator;
  readonly #address: string;
  /** The places of the operations whose examples the draft doubts. */
  readonly #doubts: ReadonlySet<string>;

  constructor(index: ContractIndex, validator: ResponseValidator, draft: Draft, address: string) {
    this.#index = index;
    this.#validator = validator;
    this.#address = address;
    const isDoubt = (concluded: string) => concluded.startsWith('the example');
    this.#doubts = new Set(draft.decisions.flatMap((own) => (isDoubt(own.concluded) ? [own.evidence] : [])));
    const unusable = draft.unusable.map(({ at, reason }) => `${at}: ${reason}`);
    this.wrong = { unusable, invalidCalls: [], unanswered: [], invalidAnswers: [], noSchemas: [] };
  }

  async play(operation: ContractIndex['operations'][number]): Promise<void> {
    const [parts] = operation.samples();
    if (operation.address === null || parts === undefined) return;
    const { method, target, headers, body } = renderSample(operation.address, parts);
    const view = new RequestView(SERVICE, method, target, headers, Date.now());
    view.body = body;
    const found = this.#index.findByCall(view);
    if (found?.indexed !== operation) return; // another operation of the document has this very path
    const findings = operation.check(view, found.pathTexts) ?? [];
    const told = findings.map(({ at, message }) => `${at} ${message}`).join('; ');
    if (told !== '') this.wrong.invalidCalls.push(`${operation.on}: ${told}`);
    if (method === 'HEAD' || method === 'TRACE') return;
    const answer = await request(`${this.#address}${target}`, { method: method as 'GET', headers: [...headers], body });
    const text = await answer.body.text();
    const hasSuccess = operation.responses.some(({ code }) => code.startsWith('2'));
    if (answer.statusCode >= 400 && hasSuccess) this.wrong.unanswered.push(`${operation.on}: ${answer.statusCode}`);
    const type = String(answer.headers['content-type'] ?? '').split(';')[0] ?? '';
    if (answer.statusCode < 400 && /json/.test(type) && text !== '')
      this.#validate(operation, answer.statusCode, type.trim(), JSON.parse(text));
  }

  #validate({ on, at }: ContractIndex['operations'][number], status: number, type: string, body: unknown): void {
    this.answers++;
    const [method = '', whole = ''] = on.split(' ');
    const path = whole.startsWith(this.#index.basePath) ? whole.slice(this.#index.basePath.length) : whole;
    try {
      const wrong = this.#validator.validate(path, method, status, type, body);
      if (wrong !== null && this.#doubts.has(at)) this.doubted++;
      else if (wrong !== null) this.wrong.invalidAnswers.push(`${on}: ${wrong}`);
    } catch (error) {
      this.wrong.noSchemas.push(`${on}: ${(error as Error).message}`);
    }
  }
}
