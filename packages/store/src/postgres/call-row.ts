import {
  type CallFinding,
  CallRecord,
  type CallState,
  FoundValue,
  maskCallback,
  maskHeaders,
  RequestView,
  type SentCallback,
} from '@upsetter/core';

/** A row of the table `calls`, as it is read. */
export interface CallRow {
  readonly id: string;
  readonly service: string;
  readonly version: string | null;
  readonly revision: number;
  readonly operation: string | null;
  readonly case_name: string | null;
  readonly lane: string;
  readonly answered_by: string;
  readonly stray: boolean;
  readonly state: string;
  readonly method: string;
  readonly url: string;
  readonly status: number | null;
  readonly detail: CallDetailColumn;
  readonly request_body: Buffer | null;
  readonly response_body: Buffer | null;
}

/** What is only shown, never searched: headers masked, times in milliseconds. */
interface CallDetailColumn {
  readonly at: number;
  readonly sent: readonly string[];
  readonly got: readonly string[];
  readonly upsets: readonly string[];
  readonly asked: number;
  readonly given: number;
  readonly own: number;
  readonly total: number;
  readonly trouble: string | null;
  readonly dropped: CallRecord['dropped'];
  readonly findings?: readonly CallFinding[];
  readonly callbacks?: readonly SentCallback[];
  readonly notes?: readonly string[];
  readonly found?: readonly { caseName: string; place: string; held: boolean; text: string }[];
}

export const CALL_COLUMNS = [
  'id',
  'service',
  'version',
  'revision',
  'operation',
  'case_name',
  'lane',
  'answered_by',
  'stray',
  'state',
  'method',
  'url',
  'status',
  'detail',
  'request_body',
  'response_body',
] as const;

export function toDetail(record: CallRecord): CallDetailColumn {
  return {
    at: record.request.receivedAtMs,
    sent: maskHeaders(record.request.rawHeaders, record.compiled?.secrets),
    got: maskHeaders(record.responseHeaders),
    upsets: record.upsets,
    asked: record.delayAskedMs,
    given: record.delayGivenMs,
    own: record.ownMs,
    total: record.totalMs,
    trouble: record.trouble,
    dropped: record.dropped,
    ...(record.findings === null ? {} : { findings: record.findings }),
    ...(record.callbacks === null ? {} : { callbacks: record.callbacks.map(maskCallback) }),
    ...(record.notes === null ? {} : { notes: record.notes }),
    ...(record.found === null ? {} : { found: record.found }),
  };
}

/** A record from its row. Its request reads as it was received, but for masked headers. */
export function toRecord(row: CallRow): CallRecord {
  const { detail } = row;
  const request = new RequestView(row.id, row.method, row.url, detail.sent, detail.at);
  request.lane = row.lane;
  request.body = row.request_body;
  const record = new CallRecord(request, row.service, row.version, row.revision, null);
  record.operation = row.operation;
  record.caseName = row.case_name;
  record.answeredBy = row.answered_by as CallRecord['answeredBy'];
  record.isStray = row.stray;
  record.state = row.state as CallState;
  record.status = row.status;
  record.responseHeaders = detail.got;
  record.responseBody = row.response_body;
  record.upsets = detail.upsets;
  record.delayAskedMs = detail.asked;
  record.delayGivenMs = detail.given;
  record.ownMs = detail.own;
  record.totalMs = detail.total;
  record.trouble = detail.trouble;
  record.dropped = detail.dropped;
  record.findings = detail.findings ?? null;
  record.callbacks = detail.callbacks ?? null;
  record.notes = detail.notes ?? null;
  record.found =
    detail.found?.map(({ caseName, place, held, text }) => new FoundValue(caseName, place, held, null, text)) ?? null;
  return record;
}
