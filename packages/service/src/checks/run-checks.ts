import {
  AppError,
  type CallRecord,
  type CheckedCall,
  type CheckResult,
  type CompiledCheck,
  compileChecks,
  evaluateCheck,
  findOperation,
  NO_SECRETS,
  parseDuration,
  refuseFile,
} from '@upsetter/core';
import type { CheckRequest, CheckRun } from '@upsetter/core/wire';
import type { ServiceCallLog } from '../calls/service-call-log.js';
import type { LaneRegistry } from '../lanes/lane-registry.js';
import type { MockRegistry } from '../mocks/mock-registry.js';

export interface CheckContext {
  readonly log: ServiceCallLog;
  readonly mocks: MockRegistry;
  readonly startedAtMs: number;
  readonly lanes: LaneRegistry;
}

/** Runs a checks file against the calls received. Every check sees every call received before it was asked. */
export async function runChecks(request: CheckRequest, context: CheckContext): Promise<CheckRun> {
  const services = context.mocks.list().map((mock) => mock.live.compiled);
  const compiled = compileChecks(request.file, services, {
    lane: request.lane ?? 'main',
    withinMs: request.withinMs ?? 0,
  });
  if (compiled.kind === 'refused') throw refuseFile('the checks file', compiled.problems);
  const saidMs = readSince(request.since);
  // A lane is looked at from its last reset on.
  const sinceMs = (lane: string): number => saidMs ?? Math.max(context.startedAtMs, context.lanes.resetAt(lane));
  const results = await Promise.all(compiled.checks.map((check) => runCheck(check, sinceMs(check.lane), context)));
  return { holds: results.every((result) => result.holds), results };
}

/** Null: nothing is said. */
function readSince(since: string | undefined): number | null {
  if (since === undefined) return null;
  const backMs = parseDuration(since);
  const atMs = backMs === null ? Date.parse(since) : Date.now() - backMs;
  if (Number.isNaN(atMs))
    throw new AppError(
      'request-refused',
      `\`since\` is a duration such as 30s or an RFC 3339 time, not ${JSON.stringify(since)}`,
    );
  return atMs;
}

/** Asks again at each change of the log until the verdict is final or the time is over. */
async function runCheck(check: CompiledCheck, sinceMs: number, context: CheckContext): Promise<CheckResult> {
  const startedMs = performance.now();
  const dueMs = startedMs + check.withinMs;
  for (;;) {
    const verdict = evaluateCheck(
      check,
      (await context.log.since(check.lane, sinceMs)).map((record) => toCheckedCall(record, context)),
    );
    const leftMs = dueMs - performance.now();
    if (verdict.isFinal || leftMs <= 0) {
      const { holds, wanted, found, near, more } = verdict;
      return {
        check: check.name,
        holds,
        wanted,
        found,
        near: [...near],
        more,
        tookMs: Math.round(performance.now() - startedMs),
      };
    }
    await context.log.changes.next(leftMs);
  }
}

/** A kept call has let go of its path parameters: they are found again, by the table that answered it. */
function toCheckedCall(record: CallRecord, context: CheckContext): CheckedCall {
  const compiled = record.compiled ?? context.mocks.list().find((mock) => mock.name === record.service)?.live.compiled;
  if (record.operation !== null && compiled !== undefined) findOperation(compiled, record.request);
  return {
    id: record.request.id,
    service: record.service,
    operation: record.operation,
    isStray: record.isStray,
    request: record.request,
    secrets: compiled?.secrets ?? NO_SECRETS,
  };
}
