import { Worker } from 'node:worker_threads';

/** A thread begins in a second or so: one that has nothing to do is kept this long for what comes next. */
const KEPT_MS = 20_000;

interface IdleThread {
  readonly worker: Worker;
  readonly timer: NodeJS.Timeout;
}

/** Threads that answer each message with one: as many as are needed at once, of which one is kept for a while. */
export class KeptThreads<Task, Outcome> {
  readonly #url: URL;
  #idle: IdleThread | null = null;

  constructor(url: URL) {
    this.#url = url;
  }

  /** Rejects when the thread ends before it answers, or `signal` says so. */
  run(task: Task, signal?: AbortSignal): Promise<Outcome> {
    return new Promise((resolve, reject) => {
      if (signal?.aborted === true) {
        reject(new Error('it is no longer wanted'));
        return;
      }
      const worker = this.#take();
      const end = (): void => void worker.terminate();
      const onMessage = (outcome: Outcome): void => {
        settle();
        this.#keep(worker);
        resolve(outcome);
      };
      const onError = (error: Error): void => {
        settle();
        reject(error);
      };
      const onExit = (code: number): void => onError(new Error(`the thread ended with code ${code}`));
      const settle = (): void => {
        worker.off('message', onMessage).off('error', onError).off('exit', onExit);
        signal?.removeEventListener('abort', end);
      };
      signal?.addEventListener('abort', end, { once: true });
      worker.on('message', onMessage).on('error', onError).on('exit', onExit);
      worker.postMessage(task);
    });
  }

  #take(): Worker {
    if (this.#idle === null) return this.#begin();
    const { worker, timer } = this.#idle;
    clearTimeout(timer);
    this.#idle = null;
    worker.ref();
    return worker;
  }

  #begin(): Worker {
    const worker = new Worker(this.#url);
    // One that ends while nothing is asked of it is no trouble, and is not asked again.
    worker.on('error', () => {});
    worker.on('exit', () => {
      if (this.#idle?.worker === worker) this.#idle = null;
    });
    return worker;
  }

  #keep(worker: Worker): void {
    if (this.#idle !== null) {
      void worker.terminate();
      return;
    }
    // What is kept does not hold up the end of the process.
    worker.unref();
    const timer = setTimeout(() => {
      this.#idle = null;
      void worker.terminate();
    }, KEPT_MS);
    this.#idle = { worker, timer: timer.unref() };
  }
}
