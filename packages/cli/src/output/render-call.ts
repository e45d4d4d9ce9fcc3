import type { CallSummary } from '@upsetter/core/wire';
import { renderCount } from './render-count.js';
import { renderTable } from './render-table.js';
import { paint } from './terminal.js';

const HEADS = ['time', 'call', 'service', 'request', 'answered by', 'status', 'own', 'delay'];

/** The end of an id: enough to name a call of late. */
export function shortId(id: string): string {
  return id.slice(-8);
}

export function renderCalls(calls: readonly CallSummary[]): string {
  return renderTable(HEADS, calls.map(renderRow));
}

/** One call as a line of its own, for following. */
export function renderCallLine(call: CallSummary): string {
  const [time = '', id = '', service = '', request = '', by = '', status = '', own = '', delay = ''] = renderRow(call);
  return `${time}  ${paint.faint(id)}  ${service.padEnd(15)} ${request.padEnd(38)} ${status}  ${by}  ${paint.faint(own)} ${delay}`.trimEnd();
}

function renderRow(call: CallSummary): string[] {
  return [
    renderTime(call.at),
    shortId(call.id),
    call.service,
    `${call.method} ${shorten(call.url)}`,
    renderAnsweredBy(call),
    renderStatus(call),
    call.state === 'in flight' ? '' : `${call.ownMs.toFixed(1)} ms`,
    call.delayAskedMs > 0 ? paint.upset(`+${Math.round(call.delayGivenMs)} ms`) : '',
  ];
}

const LONGEST_URL = 46;

function shorten(url: string): string {
  return url.length > LONGEST_URL ? `${url.slice(0, LONGEST_URL - 3)}...` : url;
}

/** The time of day, here: `18:03:07.512`. */
export function renderTime(at: string): string {
  const time = new Date(at);
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${two(time.getHours())}:${two(time.getMinutes())}:${two(time.getSeconds())}.${String(time.getMilliseconds()).padStart(3, '0')}`;
}

/** Who answered, whether the contract was kept, and what did not arrive. */
export function renderAnsweredBy(call: CallSummary): string {
  const marks = [
    call.findings === 0 ? '' : paint.warn(renderCount(call.findings, 'finding')),
    call.callbacksFailed === 0 ? '' : paint.bad(`${renderCount(call.callbacksFailed, 'callback')} failed`),
  ];
  return [renderAnswerer(call), ...marks].filter((text) => text !== '').join(' ');
}

/** Operation and case; or `stray`, or the upset that answered. */
function renderAnswerer(call: CallSummary): string {
  if (call.answeredBy === 'upset')
    return `${call.operation ?? ''} ${paint.upset(`upset: ${call.upsets.join(', ')}`)}`.trim();
  if (call.answeredBy === 'upstream' && call.stray) return paint.warn('stray, relayed');
  if (call.answeredBy === 'access') return `${call.operation ?? ''} ${paint.warn('refused: no access')}`.trim();
  if (call.answeredBy === 'contract') return `${call.operation ?? ''} ${paint.warn('refused by the contract')}`.trim();
  if (call.stray) return paint.warn(call.operation === null ? 'stray' : `stray (${call.operation})`);
  if (call.operation === null) return paint.faint(call.trouble ?? 'the mock itself');
  return call.case === null
    ? `${call.operation} ${paint.bad(call.trouble ?? '')}`.trim()
    : `${call.operation} / ${call.case}`;
}

function renderStatus(call: CallSummary): string {
  if (call.state === 'in flight') return paint.faint('in flight');
  if (call.state === 'broken') return paint.bad('broken');
  const status = String(call.status ?? '');
  return (call.status ?? 0) >= 500 ? paint.bad(status) : (call.status ?? 0) >= 400 ? paint.warn(status) : status;
}
