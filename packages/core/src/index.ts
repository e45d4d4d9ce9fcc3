export type { AccessRefusal } from './access/compile-access.js';
export { type ContentCoding, chooseCoding } from './answer/choose-coding.js';
export type { EventsForm, RelayedForm, RenderedAnswer } from './answer/rendered-answer.js';
export type { AnsweredBy, CallState, DroppedBody } from './call/call-record.js';
export { CallRecord } from './call/call-record.js';
export type { PlannedCallback } from './callback/compile-callback.js';
export { maskCallback } from './callback/mask-callback.js';
export type { CallbackTry, SentCallback } from './callback/sent-callback.js';
export type { CheckResult, NearCall } from './check/check-result.js';
export type { CompiledCheck } from './check/compile-check.js';
export { type CompiledChecks, compileChecks } from './check/compile-check.js';
export type { CheckedCall, Verdict } from './check/evaluate-check.js';
export { evaluateCheck } from './check/evaluate-check.js';
export { renderJunit, renderJunitCases } from './check/render-junit.js';
export { listContractFiles, listLostDocuments } from './contract/beside-contract.js';
export { compareContracts } from './contract/comparing/compare-contracts.js';
export type { ContractChange } from './contract/comparing/contract-change.js';
export { Contract } from './contract/contract.js';
export { knowDocuments, listReadDocuments, type ReadDocument } from './contract/contract-document.js';
export type { CallFinding } from './contract/keeping/call-finding.js';
export { type CheckedCase, type ContractCheck, checkCases } from './contract/keeping/check-cases.js';
export type { ContractIndex } from './contract/keeping/contract-index.js';
export type { ContractKeeper } from './contract/keeping/contract-keeper.js';
export { OpenApiIndex } from './contract/keeping/openapi-index.js';
export { placeCheck, reportContract } from './contract/keeping/report-contract.js';
export { renderSample } from './contract/keeping/sample-parts.js';
export { findReferred, isXml, openContract } from './contract/open-contract.js';
export { serveContract } from './contract/serve-contract.js';
export type { Answer } from './definition/answer.js';
export { inlineBodies } from './definition/beside/move-bodies.js';
export { listBeside } from './definition/beside/resolve-beside.js';
export {
  type BesideFile,
  type BesideFiles,
  besideFilesSchema,
  type ServiceText,
} from './definition/beside/service-text.js';
export { contractFileOf } from './definition/contract-key.js';
export { parseDuration, parseShare, renderDuration } from './definition/duration.js';
export { readAnswers, replaceAnswer } from './definition/edit-service-file.js';
export { type Lexicon, lexiconSchema } from './definition/lexicon.js';
export type { LoadedService } from './definition/load-service.js';
export { loadService, requireService } from './definition/load-service.js';
export { findNearest } from './definition/nearest.js';
export { parseYamlFile } from './definition/parse-service-file.js';
export { describeServiceFile } from './definition/schema/service-file-schema.js';
export { isRelayed, type ServiceFile, serviceKeySchema, serviceNameSchema } from './definition/service-file.js';
export type { UpsetDefinition } from './definition/upset.js';
export { upsetSchema } from './definition/upset.js';
export { ENVIRONMENTS_FILE, listVariables, type Variable } from './definition/variables.js';
export type { When } from './definition/when.js';
export { writeServiceFile } from './definition/write-service-file.js';
export { type CompletedService, completeService } from './drafting/complete-service.js';
export type { Draft, DraftDecision, DraftLevel } from './drafting/draft.js';
export { DRAFT_LEVELS } from './drafting/draft.js';
export { draftContract } from './drafting/draft-contract.js';
export { draftHar } from './drafting/draft-har.js';
export { type DraftTrafficOptions, draftTraffic } from './drafting/draft-traffic.js';
export { type Fidelity, type FidelityDifference, measureFidelity } from './drafting/fidelity.js';
export {
  adoptContract,
  type ContractFiles,
  type FollowedContract,
  followContract,
} from './drafting/follow-contract.js';
export { type MergedDraft, mergeDraft } from './drafting/merge-draft.js';
export type { ErrorDetails, FileProblem } from './errors/app-error.js';
export { AppError } from './errors/app-error.js';
export type { ErrorCode } from './errors/error-table.js';
export { ERROR_TABLE } from './errors/error-table.js';
export { refuseFile } from './errors/refuse-file.js';
export { explainCall } from './explain/explain-call.js';
export type { ExplainedCase, ExplainedOperation, Explanation } from './explain/explanation.js';
export { FoundValue } from './explain/found-value.js';
export { buildStrayProblem } from './explain/stray-problem.js';
export { matchLike } from './matching/comparing/like.js';
export type { CompiledCase } from './matching/compile-case.js';
export { type CompiledOperation, type CompiledService, compileInSteps } from './matching/compile-service.js';
export { findOperation } from './matching/find-operation.js';
export { findOverlaps, type Overlap } from './reachability/find-overlaps.js';
export { findUnreachable, type UnreachableCase } from './reachability/find-unreachable.js';
export { listNotes, type ServiceNote } from './reachability/list-notes.js';
export { RequestView } from './request/request-view.js';
export { renderProblemFault } from './soap/problem-fault.js';
export type { FaultRole } from './soap/render-fault.js';
export type { Decision } from './state/commit-call.js';
export { chooseCase, commitCall, renderAccessAnswer, renderUpsetAnswer } from './state/commit-call.js';
export { Lane, Lanes } from './state/lane.js';
export { LaneClock, LaneClocks } from './state/lane-clock.js';
export { readLaneName } from './state/lane-name.js';
export type { Exchange } from './traffic/exchange.js';
export { headerOf } from './traffic/exchange.js';
export { HarReader, type ReadHar, readHar } from './traffic/har-reader.js';
export { isSecretHeader, MASK, maskHeaders, maskTarget, NO_SECRETS } from './traffic/mask.js';
export { SecretMasker } from './traffic/secret-masker.js';
export { writeHar } from './traffic/write-har.js';
export { acceptDifference } from './trial/accept-difference.js';
export { type AdoptedPlace, adoptDifference } from './trial/adopt-difference.js';
export { renderTrialJunit } from './trial/render-trial-junit.js';
export { renderTrialPage } from './trial/render-trial-page.js';
export { runTrial, type SendCall } from './trial/run-trial.js';
export { listTrialChanges, type TrialChange } from './trial/trial-changes.js';
export type { Trial, TrialAnswer, TrialRequest, TriedStep } from './trial/trial-result.js';
export { USUAL_ENVIRONMENT } from './trial/trial-result.js';
export type { CompiledUpset } from './upset/compile-upset.js';
export { compileUpset } from './upset/compile-upset.js';
export type { UpsetPlan } from './upset/plan-upsets.js';
export { planUpsets } from './upset/plan-upsets.js';
export type { ContractReport, WantedPart } from './wire/contract-view.js';
