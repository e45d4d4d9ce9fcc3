import type { BesideFiles, UpsetDefinition } from '@upsetter/core';
import type {
  AnsweredView,
  AuthorityView,
  CallDetail,
  CallList,
  CheckRequest,
  CheckRun,
  Completed,
  ContractReport,
  DraftRequest,
  DraftView,
  ExchangeDetail,
  ExchangeList,
  Feed,
  FeedRun,
  FeedStart,
  FinishedTrial,
  IssuedCertificate,
  LaneView,
  Problem,
  Revision,
  Saved,
  ServiceSummary,
  ServiceView,
  TakeStart,
  TakeSummary,
  TrialDetail,
  TrialStart,
  TrialSummary,
  TryRequest,
  TryResult,
  UpsetState,
  WantedPart,
  Why,
} from '@upsetter/core/wire';
import type { CallBatch, CallsWanted, LaneClockChange } from './client-requests.js';
import { readEvents } from './read-events.js';
import { UpsetterProblem } from './upsetter-problem.js';

/** The control API, typed. Every method rejects with `UpsetterProblem`: of the service, or `service-unreachable`. */
export class UpsetterClient {
  readonly address: string;

  /** `address`: of the control plane, such as `http://127.0.0.1:4600`; empty in a page that the service itself has served. */
  constructor(address: string) {
    this.address = address.replace(/\/$/, '');
  }

  listServices(): Promise<ServiceSummary[]> {
    return this.#json('GET', '/api/services');
  }

  readService(name: string): Promise<ServiceView> {
    return this.#json('GET', `/api/services/${encodeURIComponent(name)}`);
  }

  /**
   * Saves a service file. `basedOn`: the revision it was made from (0: none yet); the save is refused when there is a
   * later one. `files`: those beside it; left out, those that are there stay. `merge`: the file is a newer draft, to be merged into what is there.
   * `reset`: all lanes begin anew.
   */
  saveService(
    name: string,
    file: string,
    options: { files?: BesideFiles; note?: string; basedOn?: number; merge?: boolean; reset?: boolean } = {},
  ): Promise<Saved> {
    const { files, note, basedOn, merge, reset } = options;
    return this.#json(
      'PUT',
      `/api/services/${encodeURIComponent(name)}`,
      {
        file,
        ...(files === undefined ? {} : { files }),
        ...(note === undefined ? {} : { note }),
        ...(merge === undefined ? {} : { merge }),
        ...(reset === undefined ? {} : { reset }),
      },
      basedOn,
    );
  }

  /** Replaces one case's answer (YAML or JSON); the rest of the file stays as it is, comments included. */
  saveAnswer(name: string, operation: string, caseName: string, answer: string, basedOn?: number): Promise<Saved> {
    const path = [name, 'operations', operation, 'cases', caseName, 'answer'].map(encodeURIComponent).join('/');
    return this.#json('PUT', `/api/services/${path}`, { answer }, basedOn);
  }

  async removeService(name: string): Promise<void> {
    await this.#json('DELETE', `/api/services/${encodeURIComponent(name)}`);
  }

  listRevisions(name: string): Promise<Revision[]> {
    return this.#json('GET', `/api/services/${encodeURIComponent(name)}/revisions`);
  }

  /** How a service keeps to the contract it names; null: it names none. */
  async readContractReport(name: string): Promise<ContractReport | null> {
    const { report } = await this.#json<{ report: ContractReport | null }>(
      'GET',
      `/api/services/${encodeURIComponent(name)}/contract`,
    );
    return report;
  }

  /** The service's file with what its contract has and it has not; nothing is saved. `wanted` null: everything. */
  completeService(name: string, wanted: WantedPart | null): Promise<Completed> {
    return this.#json('POST', `/api/services/${encodeURIComponent(name)}/contract/complete`, { wanted });
  }

  tryCall(name: string, call: TryRequest): Promise<TryResult> {
    return this.#json('POST', `/api/services/${encodeURIComponent(name)}/try`, call);
  }

  /** Adds an upset (or replaces the one of its name) and switches it on. */
  upset(name: string, upset: UpsetDefinition): Promise<UpsetState[]> {
    return this.#json('PUT', `/api/services/${encodeURIComponent(name)}/upsets`, upset);
  }

  switchUpset(name: string, upset: string, inForce: boolean): Promise<UpsetState[]> {
    return this.#json('PUT', `/api/services/${encodeURIComponent(name)}/upsets/${encodeURIComponent(upset)}/switch`, {
      inForce,
    });
  }

  /** Switches every upset of a service off; gives how many were in force. */
  calm(name: string): Promise<{ calmed: number }> {
    return this.#json('POST', `/api/services/${encodeURIComponent(name)}/calm`);
  }

  /** Callers' private worlds, over all services: `main` first, then the one called last. */
  listLanes(): Promise<LaneView[]> {
    return this.#json('GET', '/api/lanes');
  }

  readLane(name: string): Promise<LaneView> {
    return this.#json('GET', `/api/lanes/${encodeURIComponent(name)}`);
  }

  /** As it was at the start; checks look from now on. */
  async resetLane(name: string): Promise<void> {
    await this.#json('POST', `/api/lanes/${encodeURIComponent(name)}/reset`);
  }

  async dropLane(name: string): Promise<void> {
    await this.#json('DELETE', `/api/lanes/${encodeURIComponent(name)}`);
  }

  /** `freeze`: true (where it is) or an RFC 3339 date; `advance`: `90m`, `-1d`; `release`: real time again. */
  setLaneClock(name: string, change: LaneClockChange): Promise<LaneView['clock']> {
    return this.#json('PUT', `/api/lanes/${encodeURIComponent(name)}/clock`, change);
  }

  listCalls(wanted: CallsWanted = {}): Promise<CallList> {
    const query = new URLSearchParams();
    for (const [key, value] of Object.entries(wanted)) if (value !== undefined) query.set(key, String(value));
    return this.#json('GET', `/api/calls?${query}`);
  }

  readCall(id: string): Promise<CallDetail> {
    return this.#json('GET', `/api/calls/${encodeURIComponent(id)}`);
  }

  why(id: string): Promise<Why> {
    return this.#json('GET', `/api/calls/${encodeURIComponent(id)}/why`);
  }

  /** Gives a call (and those like it) a case of its own: with this answer (YAML), else as it was answered. */
  answerCall(id: string, answer?: string): Promise<AnsweredView> {
    return this.#json('POST', `/api/calls/${encodeURIComponent(id)}/answer`, answer === undefined ? {} : { answer });
  }

  /** The JSON Schema of the service file. */
  readServiceFileSchema(): Promise<Readonly<Record<string, unknown>>> {
    return this.#json('GET', '/api/service-file.schema.json');
  }

  /** The certificate of Upsetter's own authority; the first to ask has it made. */
  readAuthority(): Promise<AuthorityView> {
    return this.#json('GET', '/api/authority');
  }

  /** A client certificate of Upsetter's own authority, by which a caller shows that it is `name`. */
  issueClientCertificate(name: string): Promise<IssuedCertificate> {
    return this.#json('POST', '/api/authority/clients', { name });
  }

  listFeeds(): Promise<Feed[]> {
    return this.#json('GET', '/api/feeds');
  }

  /** A feed of the same name gives way. */
  addFeed(start: FeedStart): Promise<Feed> {
    return this.#json('POST', '/api/feeds', start);
  }

  /** Fetches now; what is new is merged into the service. */
  runFeed(name: string): Promise<FeedRun> {
    return this.#json('POST', `/api/feeds/${encodeURIComponent(name)}/run`);
  }

  async removeFeed(name: string): Promise<void> {
    await this.#json('DELETE', `/api/feeds/${encodeURIComponent(name)}`);
  }

  /** Newest first. */
  listTrials(service: string): Promise<TrialSummary[]> {
    return this.#json('GET', `/api/services/${encodeURIComponent(service)}/trials`);
  }

  /** Begins a trial in the running service; it goes on by itself. */
  startTrial(service: string, start: TrialStart): Promise<TrialSummary> {
    return this.#json('POST', `/api/services/${encodeURIComponent(service)}/trials`, start);
  }

  /** Keeps a trial that was run elsewhere. */
  keepTrial(service: string, trial: FinishedTrial): Promise<TrialSummary> {
    return this.#json('POST', `/api/services/${encodeURIComponent(service)}/trials/finished`, trial);
  }

  readTrial(id: string): Promise<TrialDetail> {
    return this.#json('GET', `/api/trials/${encodeURIComponent(id)}`);
  }

  /** What was tried until then is kept. */
  stopTrial(id: string): Promise<TrialDetail> {
    return this.#json('POST', `/api/trials/${encodeURIComponent(id)}/stop`);
  }

  /** The case answers from now on as the real implementation did, at one place. */
  adoptDifference(id: string, place: { operation: string; case: string; at: string }): Promise<Saved> {
    return this.#json('POST', `/api/trials/${encodeURIComponent(id)}/adopt`, place);
  }

  /** The service file says from now on that a difference is accepted, and why. `case` null: in all cases of the operation. */
  acceptDifference(
    id: string,
    accepted: { operation: string; case: string | null; at: string; because: string; in?: string | null },
  ): Promise<Saved> {
    return this.#json('POST', `/api/trials/${encodeURIComponent(id)}/accept`, accepted);
  }

  listTakes(): Promise<TakeSummary[]> {
    return this.#json('GET', '/api/takes');
  }

  readTake(name: string): Promise<TakeSummary> {
    return this.#json('GET', `/api/takes/${encodeURIComponent(name)}`);
  }

  /** Opens a relay to a real service, or a proxy; what passes is heard until the take is stopped. */
  startTake(start: TakeStart): Promise<TakeSummary> {
    return this.#json('POST', '/api/takes', start);
  }

  stopTake(name: string): Promise<TakeSummary> {
    return this.#json('POST', `/api/takes/${encodeURIComponent(name)}/stop`);
  }

  async removeTake(name: string): Promise<void> {
    await this.#json('DELETE', `/api/takes/${encodeURIComponent(name)}`);
  }

  /** Keeps one call that was relayed in a take of its service. */
  keepCall(id: string): Promise<TakeSummary> {
    return this.#json('POST', `/api/calls/${encodeURIComponent(id)}/keep`);
  }

  /** Exchanges in order, those after an index (-1: from the first). */
  listExchanges(name: string, after = -1, limit = 200): Promise<ExchangeList> {
    return this.#json('GET', `/api/takes/${encodeURIComponent(name)}/exchanges?after=${after}&limit=${limit}`);
  }

  readExchange(name: string, index: number): Promise<ExchangeDetail> {
    return this.#json('GET', `/api/takes/${encodeURIComponent(name)}/exchanges/${index}`);
  }

  /** The whole take as a HAR 1.2 document. */
  readHar(name: string): Promise<unknown> {
    return this.#json('GET', `/api/takes/${encodeURIComponent(name)}/har`);
  }

  /** A draft from what was heard; nothing is saved. */
  draftTake(name: string, request: DraftRequest = {}): Promise<DraftView> {
    return this.#json('POST', `/api/takes/${encodeURIComponent(name)}/draft`, request);
  }

  runChecks(request: CheckRequest): Promise<CheckRun> {
    return this.#json('POST', '/api/checks/run', request);
  }

  /**
   * Calls as they come, until `signal` ends. A connection that is lost is taken up again where it broke off.
   * `onOpen` is told once the stream stands: every call received from then on will be told.
   */
  async *followCalls(signal: AbortSignal, onOpen?: () => void): AsyncGenerator<CallBatch> {
    let lastId: string | null = null;
    while (!signal.aborted) {
      try {
        const headers: Record<string, string> = {
          accept: 'text/event-stream',
          ...(lastId === null ? {} : { 'last-event-id': lastId }),
        };
        const response = await fetch(`${this.address}/api/calls/stream`, { headers, signal });
        if (response.body === null) return;
        for await (const event of readEvents(response.body)) {
          if (lastId === null) onOpen?.();
          lastId = event.id ?? lastId;
          if (event.name === 'calls') yield JSON.parse(event.data) as CallBatch;
        }
      } catch (error) {
        if (signal.aborted) return;
        if (lastId === null) throw unreachable(this.address, error);
      }
      if (!signal.aborted) await new Promise((resolve) => setTimeout(resolve, RECONNECT_MS));
    }
  }

  async #json<T>(method: string, path: string, body?: unknown, basedOn?: number): Promise<T> {
    const headers: Record<string, string> = {};
    if (body !== undefined) headers['content-type'] = 'application/json';
    if (basedOn !== undefined) headers['if-match'] = `"${basedOn}"`;
    let response: Response;
    try {
      response = await fetch(`${this.address}${path}`, {
        method,
        headers,
        body: body === undefined ? null : JSON.stringify(body),
      });
    } catch (error) {
      throw unreachable(this.address, error);
    }
    if (response.ok) return (response.status === 204 ? undefined : await response.json()) as T;
    throw new UpsetterProblem(await readProblem(response));
  }
}

const RECONNECT_MS = 500;

function unreachable(address: string, cause: unknown): UpsetterProblem {
  const reason = (cause as { cause?: { code?: string } }).cause?.code ?? (cause as Error).message;
  return new UpsetterProblem({
    type: 'urn:upsetter:problem:service-unreachable',
    title: 'The service cannot be reached',
    status: 502,
    code: 'service-unreachable',
    detail: `no service answers at ${address} (${reason})`,
    next: 'Is it running? Start it: upsetter up. Another address: --control URL or UPSETTER_URL.',
  });
}

async function readProblem(response: Response): Promise<Problem> {
  const text = await response.text();
  try {
    return JSON.parse(text) as Problem;
  } catch {
    return {
      type: 'about:blank',
      title: response.statusText,
      status: response.status,
      code: 'internal',
      detail: text.slice(0, 500),
      next: 'Is this the control address?',
    };
  }
}
