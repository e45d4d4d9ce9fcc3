import type { RenderedAnswer } from '../../answer/rendered-answer.js';
import type { OperationAddress } from '../../matching/path-template.js';
import type { RequestView } from '../../request/request-view.js';
import type { CallFinding } from './call-finding.js';
import type { ContractIndex, IndexedOperation } from './contract-index.js';

/** What becomes of calls that are not as the contract says. */
export type CallRule = 'report' | 'refuse' | 'ignore';

interface KeptOperation {
  readonly name: string;
  readonly address: OperationAddress;
}

/** The contract of one service, by which its calls and relayed answers are checked. */
export class ContractKeeper {
  readonly index: ContractIndex;
  readonly calls: CallRule;
  readonly #byName: ReadonlyMap<string, IndexedOperation>;

  constructor(index: ContractIndex, calls: CallRule, operations: readonly KeptOperation[]) {
    this.index = index;
    this.calls = calls;
    this.#byName = new Map(
      operations.flatMap(({ name, address }) => {
        const own = index.findByAddress(address);
        return own === null ? [] : [[name, own] as const];
      }),
    );
  }

  /** The operations of the service that are the contract's as well; asking for a check compiles it. */
  kept(): Iterable<IndexedOperation> {
    return this.#byName.values();
  }

  /** How a received call differs from the contract; null: not at all. `operation`: the service's own that it led to. */
  checkCall(request: RequestView, operation: string | null): readonly CallFinding[] | null {
    const own = operation === null ? undefined : this.#byName.get(operation);
    if (own !== undefined) return own.check(request, request.paramValues);
    const found = this.index.findByCall(request);
    return found === null ? [this.#tellUnknown(request)] : found.indexed.check(request, found.pathTexts);
  }

  /** How an answer that came from elsewhere differs from the contract; null: not at all, or it has no such operation. */
  checkAnswer(request: RequestView, answer: RenderedAnswer): readonly CallFinding[] | null {
    const found = this.index.findByCall(request);
    if (found === null) return null;
    const findings = found.indexed.checkAnswer(answer);
    if (findings.length === 0) return null;
    return findings.map((finding) => ({ in: 'answer', ...finding, refusal: null }));
  }

  #tellUnknown(request: RequestView): CallFinding {
    const message = `${request.method} ${request.path} is not in the contract`;
    return { in: 'call', at: 'method and path', message, rule: this.index.root, refusal: null };
  }
}
