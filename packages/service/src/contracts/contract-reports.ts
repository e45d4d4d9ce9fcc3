import { setImmediate as nextTurn } from 'node:timers/promises';
import type { ContractReport } from '@upsetter/core';
import type { Mock } from '../mocks/mock.js';
import { runContractTask } from './run-contract-task.js';

interface KeptReport {
  readonly revision: number;
  readonly asked: Promise<ContractReport | null>;
  /** Undefined while it is made. */
  report: ContractReport | null | undefined;
}

/** How services keep to their contracts: made after each save, one after the other, in a thread of their own. */
export class ContractReports {
  readonly #kept = new Map<string, KeptReport>();
  readonly #onTrouble: (message: string) => void;
  #last: Promise<unknown> = Promise.resolve();
  readonly #ending = new AbortController();

  constructor(onTrouble: (message: string) => void) {
    this.#onTrouble = onTrouble;
  }

  /** Told after each save: the report is made anew, and the checks of calls are compiled before the first call asks. */
  refresh(mock: Mock): void {
    if (mock.live.compiled.contract === null) return;
    this.read(mock).catch((error: Error) => {
      if (!this.#ending.signal.aborted)
        this.#onTrouble(`${mock.name} could not be held against its contract: ${error.message}`);
    });
    void compileChecks(mock, this.#ending.signal);
  }

  /** Null: the service names no contract. */
  read(mock: Mock): Promise<ContractReport | null> {
    if (mock.live.compiled.contract === null) return Promise.resolve(null);
    const known = this.#kept.get(mock.name);
    if (known?.revision === mock.saved.revision) return known.asked;
    const { file: text, files, revision } = mock.saved;
    const asked = this.#last.then(() => runContractTask({ kind: 'report', text, files }, this.#ending.signal));
    this.#last = asked.catch(() => {});
    const kept: KeptReport = { revision, asked, report: undefined };
    this.#kept.set(mock.name, kept);
    asked.then(
      (report) => {
        kept.report = report;
      },
      () => this.#kept.delete(mock.name),
    );
    return asked;
  }

  /** How many findings the latest report has; null: there is none, or it is not made yet. */
  findings(mock: Mock): number | null {
    const { revision, report } = this.#kept.get(mock.name) ?? {};
    if (report === undefined || report === null || revision !== mock.saved.revision) return null;
    return report.cases.reduce((sum, own) => sum + own.findings.length, 0) + report.unknown.length;
  }

  /** What is on its way is given up: it is made anew when it is asked for again. */
  async stop(): Promise<void> {
    this.#ending.abort();
    await this.#last;
  }
}

/** So long may be spent beforehand; the checks of large contracts are compiled by the first call of each operation. */
const MOST_WARMING_MS = 300;

/** One at a time, so that calls come between. */
async function compileChecks(mock: Mock, signal: AbortSignal): Promise<void> {
  let spentMs = 0;
  for (const operation of mock.live.compiled.contract?.kept() ?? []) {
    if (signal.aborted || spentMs > MOST_WARMING_MS) return;
    const startedMs = performance.now();
    void operation.check;
    spentMs += performance.now() - startedMs;
    await nextTurn();
  }
}
