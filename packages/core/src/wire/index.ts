export type { SentCallback } from '../callback/sent-callback.js';
export { type CallFinding, callFindingSchema } from '../contract/keeping/call-finding.js';
export type { Comparison } from '../definition/comparison.js';
export type { When } from '../definition/when.js';
export type { TrialChange } from '../trial/trial-changes.js';
export type { TrialAnswer, TriedStep } from '../trial/trial-result.js';
export { type AnsweredView, answeredSchema, answerRequestSchema } from './answered-view.js';
export {
  type AuthorityView,
  authorityViewSchema,
  type IssuedCertificate,
  issuedSchema,
  issueSchema,
} from './authority-view.js';
export type { CallDetail, CallList, CallQuery, CallSummary, KeptBody, Why } from './call-record.js';
export {
  answeredBySchema,
  callDetailSchema,
  callListSchema,
  callQuerySchema,
  callSummarySchema,
  keptBodySchema,
  whySchema,
} from './call-record.js';
export type { CheckRequest, CheckRun } from './check-run.js';
export { checkRequestSchema, checkRunSchema } from './check-run.js';
export {
  type Completed,
  type ContractReport,
  completedSchema,
  contractReportSchema,
  type WantedPart,
  wantedPartSchema,
} from './contract-view.js';
export type { Feed, FeedRun, FeedStart } from './feed-view.js';
export { feedRunSchema, feedSchema, feedStartSchema } from './feed-view.js';
export { type ClockChange, clockChangeSchema, type LaneView, laneViewSchema } from './lane-view.js';
export type { Problem } from './problem.js';
export { fileProblemSchema, problemSchema } from './problem.js';
export type {
  CaseView,
  OperationView,
  Revision,
  Saved,
  SaveRequest,
  ServiceSummary,
  ServiceView,
  UpsetState,
} from './service-view.js';
export {
  caseViewSchema,
  operationViewSchema,
  revisionSchema,
  savedSchema,
  saveRequestSchema,
  serviceSummarySchema,
  serviceViewSchema,
  upsetStateSchema,
} from './service-view.js';
export type {
  DraftRequest,
  DraftView,
  ExchangeDetail,
  ExchangeList,
  ExchangeSummary,
  TakeStart,
  TakeSummary,
} from './take-view.js';
export {
  draftRequestSchema,
  draftViewSchema,
  exchangeDetailSchema,
  exchangeListSchema,
  exchangeSummarySchema,
  takeStartSchema,
  takeSummarySchema,
} from './take-view.js';
export type { FinishedTrial, TrialCounts, TrialDetail, TrialStart, TrialSummary } from './trial-view.js';
export {
  finishedTrialSchema,
  trialAcceptSchema,
  trialDetailSchema,
  trialPlaceSchema,
  trialStartSchema,
  trialSummarySchema,
} from './trial-view.js';
export type { TryRequest, TryResult } from './try-call.js';
export { tryRequestSchema, tryResultSchema } from './try-call.js';
