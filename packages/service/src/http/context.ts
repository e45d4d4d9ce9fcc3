import type { CallWriterState, Store } from '@upsetter/store';
import type { AuthorityKeeper } from '../authority/authority-keeper.js';
import type { ServiceCallLog } from '../calls/service-call-log.js';
import type { ContractReports } from '../contracts/contract-reports.js';
import type { FeedRegistry } from '../feeds/feed-registry.js';
import type { LaneRegistry } from '../lanes/lane-registry.js';
import type { MockRegistry } from '../mocks/mock-registry.js';
import type { TakeRegistry } from '../takes/take-registry.js';
import type { TrialRegistry } from '../trials/trial-registry.js';

/** What the routes work on. */
export interface ApiContext {
  readonly store: Store;
  readonly mocks: MockRegistry;
  readonly lanes: LaneRegistry;
  readonly takes: TakeRegistry;
  readonly reports: ContractReports;
  readonly trials: TrialRegistry;
  readonly feeds: FeedRegistry;
  readonly authority: AuthorityKeeper;
  readonly log: ServiceCallLog;
  readonly writerState: () => CallWriterState;
  readonly startedAtMs: number;
  readonly version: string;
  readonly consoleDir: string | null;
}
