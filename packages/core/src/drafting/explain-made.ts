import type { ExplainOptions, Instance } from './explain-source.js';
import { quote } from './leaves.js';
import { commonShape, isMomentNear, momentForm, shapeOf } from './value-shape.js';

const MS_PER_SECOND = 1000;
const SECONDS_PER_MINUTE = 60;
/** How far an offset from now may be from whole minutes: the service took its time, too. */
const SLACK_SECONDS = 2;
const LONGEST_OFFSET_SECONDS = 400 * 24 * 60 * SECONDS_PER_MINUTE;

/** The expression that makes values like these on the spot: a moment, an id, a number that counts. Null when they were not made here. */
export function explainMade(
  targets: readonly unknown[],
  instances: readonly Instance[],
  { flow, counterName }: ExplainOptions,
  member: string,
): string | null {
  const positions = instances.map(({ heard }) => heard.position);
  if (!targets.every((target, i) => flow.isFresh(target, positions[i] ?? 0))) return null;
  // What a read shows first was there before, unless it is never shown again.
  const isRead = instances.some(({ heard }) => !heard.isWrite);
  if (
    isRead &&
    targets.some(
      (target, i) => flow.isShownAfter(target, positions[i] ?? 0) || flow.isUsedAfter(target, positions[i] ?? 0),
    )
  )
    return null;
  const moment = explainMoment(targets, instances);
  if (moment !== null) return moment;
  const shape = commonShape(targets);
  if (shape === null) return null;
  const [target] = targets;
  if (shape === 'uuid') return '${uuid()}';
  if (shape === 'token' && new Set(targets.map((other) => String(other).length)).size === 1)
    return `\${pattern(${quote(patternOfTokens(targets.map(String)))})}`;
  if (shape === 'hex' || shape === 'token' || shape === 'jwt')
    return `\${pattern(${quote(patternOf(String(target)))})}`;
  if (isRead) return null;
  const isCounted = targets.some((value, i) => flow.isUsedAfter(value, positions[i] ?? 0)) || new Set(targets).size > 1;
  if (shape === 'number' && Number.isInteger(target) && isCounted && isKeyName(member))
    return `\${next(${quote(counterName(member))}, ${firstOf(targets, positions)})}`;
  if (shape === 'number' && targets.every(isCountText) && isCounted && isKeyName(member))
    return `\${string(next(${quote(counterName(member))}, ${firstOf(targets, positions)}))}`;
  if (shape === 'code' && isCounted) return explainCode(targets as string[], positions, counterName(member));
  return null;
}

function explainMoment(targets: readonly unknown[], instances: readonly Instance[]): string | null {
  const form = momentForm(targets[0]);
  if (form === null || !targets.every((target) => momentForm(target) === form)) return null;
  if (targets.every((target, i) => isMomentNear(target, instances[i]?.heard.atMs ?? 0)))
    return `\${${form.expression('now')}}`;
  const offsets = targets.map((target, i) => (form.toMs(target) - (instances[i]?.heard.atMs ?? 0)) / MS_PER_SECOND);
  const [first = 0] = offsets;
  const minutes = Math.round(first / SECONDS_PER_MINUTE);
  if (minutes === 0 || Math.abs(first) > LONGEST_OFFSET_SECONDS) return null;
  if (!offsets.every((offset) => Math.abs(offset - minutes * SECONDS_PER_MINUTE) <= SLACK_SECONDS)) return null;
  return `\${${form.expression(`add(now, ${quote(renderOffset(minutes))})`)}}`;
}

function renderOffset(minutes: number): string {
  if (minutes % (24 * 60) === 0) return `${minutes / (24 * 60)}d`;
  return minutes % 60 === 0 ? `${minutes / 60}h` : `${minutes}m`;
}

/** A number that counts, written as a text. */
function isCountText(target: unknown): boolean {
  return typeof target === 'string' && /^[1-9]\d{0,14}$/.test(target);
}

/** Whether a field is called as keys are. */
export function isKeyName(member: string): boolean {
  return /^_?(id|key|no|number|code|ref|reference)$|(Id|_id|ID|No|_no|Number|_number|Ref)$/.test(member);
}

/** The number of the earliest instance: counting begins there. */
function firstOf(targets: readonly unknown[], positions: readonly number[]): number {
  const earliest = positions.indexOf(Math.min(...positions));
  return Number(targets[earliest]);
}

/** `BK-1042`: letters and a number that counts; digits with leading zeros are drawn, since counting would lose them. */
function explainCode(targets: readonly string[], positions: readonly number[], counter: string): string {
  const parts = targets.map((target) => /^(.*?)(\d+)$/.exec(target));
  const [prefix] = new Set(parts.map((part) => part?.[1] ?? ''));
  const digits = parts.map((part) => part?.[2] ?? '');
  const isPlain = digits.every((digit) => !digit.startsWith('0')) && parts.every((part) => part?.[1] === prefix);
  const isAlike = parts.every((part) => part?.[1] === prefix && part?.[2]?.length === digits[0]?.length);
  if (!isPlain && isAlike) return `\${pattern(${quote(`${prefix}\\d{${digits[0]?.length ?? 1}}`)})}`;
  if (!isPlain) return `\${pattern(${quote(patternOf(targets[0] ?? ''))})}`;
  const first = firstOf(digits.map(Number), positions);
  return `${prefix}\${next(${quote(counter)}, ${first})}`;
}

/** A pattern for texts like this one: runs of one class of characters. Punctuation stays. */
function patternOf(text: string): string {
  const isHex = shapeOf(text) === 'hex';
  const runs = text.match(/[A-Za-z0-9]+|[^A-Za-z0-9]/g) ?? [];
  return runs
    .map((run) => (/[A-Za-z0-9]/.test(run) ? patternOfRun(run, isHex) : run === '_' || run === '-' ? run : `\\${run}`))
    .join('');
}

/** `tok_9fQ2...`, `ORD-7fe0...`: what stands before all of them is a word; the rest is one run of characters. */
function patternOfTokens(texts: readonly string[]): string {
  const [text = ''] = texts;
  const prefix = texts.length > 1 ? commonPrefix(texts) : (/^([a-z]{2,6}|[A-Z]{2,6})[_-]/.exec(text)?.[0] ?? '');
  const rests = texts.map((own) => own.slice(prefix.length));
  const all = rests.join('');
  const isHex = /^[0-9a-f]+$/.test(all);
  const others = [...new Set(all.replaceAll(/[A-Za-z0-9-]/g, ''))].map((c) => (/[_.=~]/.test(c) ? c : `\\${c}`));
  const letters = isHex ? 'a-f' : `${/[A-Z]/.test(all) ? 'A-Z' : ''}${/[a-z]/.test(all) ? 'a-z' : ''}`;
  return `${prefix}[${letters}0-9${others.join('')}${all.includes('-') ? '-' : ''}]{${rests[0]?.length ?? 0}}`;
}

/** The letters and separators that all begin with. */
function commonPrefix(texts: readonly string[]): string {
  const letters = /^[A-Za-z]*[_-]?/.exec(texts[0] ?? '')?.[0] ?? '';
  let prefix = letters;
  while (prefix !== '' && !texts.every((text) => text.startsWith(prefix))) prefix = prefix.slice(0, -1);
  return prefix;
}

function patternOfRun(run: string, isHex: boolean): string {
  if (/^\d+$/.test(run)) return `\\d{${run.length}}`;
  if (isHex) return `[${/[A-F]/.test(run) ? '0-9A-F' : '0-9a-f'}]{${run.length}}`;
  if (/^[A-Z]+$/.test(run)) return `[A-Z]{${run.length}}`;
  if (/^[A-Z]{1,5}\d+$/.test(run)) return run.replace(/\d+$/, (digits) => `\\d{${digits.length}}`);
  const classes = `${/[A-Z]/.test(run) ? 'A-Z' : ''}${/[a-z]/.test(run) ? 'a-z' : ''}${/\d/.test(run) ? '0-9' : ''}`;
  return `[${classes}]{${run.length}}`;
}
