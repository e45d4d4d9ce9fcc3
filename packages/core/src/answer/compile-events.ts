import type { EventDefinition, Events } from '../definition/answer-forms.js';
import { parseDuration } from '../definition/duration.js';
import type { PathKey } from '../definition/yaml-source.js';
import type { Evaluate, Frame } from '../expression/frame.js';
import { toText } from '../expression/value.js';
import { compileData, toEvaluate } from './compile-data.js';
import type { TextScope } from './compile-text.js';
import type { EventsForm } from './rendered-answer.js';

/** `events` as the wire sends them (HTML, 9.2.6), made for a call: all of them when the call is decided, each sent at its time. */
export function compileEvents(
  events: Events,
  path: readonly PathKey[],
  scope: TextScope,
): (frame: Frame) => EventsForm {
  const isPlain = Array.isArray(events);
  const { list, gap, last = 'close' } = isPlain ? { list: events, gap: undefined } : events;
  const at = isPlain ? path : [...path, 'list'];
  const usualMs = gap === undefined ? 0 : (parseDuration(gap) ?? 0);
  if (last === 'again' && list.every(({ after }) => (after === undefined ? usualMs : parseDuration(after)) === 0))
    scope.report('events that come again and again need a `gap`, such as 1s', path);
  const written = list.map((event, i) => ({
    write: compileEvent(event, [...at, i], scope),
    afterMs:
      event.after === undefined ? (i === 0 && last !== 'again' ? 0 : usualMs) : (parseDuration(event.after) ?? 0),
  }));
  return (frame) => ({
    kind: 'events',
    events: written.map(({ write, afterMs }) => ({ text: write(frame), afterMs })),
    last,
  });
}

function compileEvent(event: EventDefinition, path: readonly PathKey[], scope: TextScope): (frame: Frame) => string {
  const read = (name: 'comment' | 'event' | 'id' | 'data'): Evaluate | null =>
    event[name] === undefined ? null : toEvaluate(compileData(event[name], [...path, name], scope));
  const [comment, type, id, data] = [read('comment'), read('event'), read('id'), read('data')];
  const retry = event.retry === undefined ? '' : `retry: ${parseDuration(event.retry)}\n`;
  return (frame) => {
    const lines = [
      comment === null ? '' : writeLines('', toText(comment(frame))),
      type === null ? '' : `event: ${oneLine(toText(type(frame)))}\n`,
      id === null ? '' : `id: ${oneLine(toText(id(frame)))}\n`,
      retry,
      data === null ? '' : writeLines('data', toText(data(frame))),
    ];
    return `${lines.join('')}\n`;
  };
}

/** Each line of a text is a field of its own; without a name it is a comment. */
function writeLines(name: string, text: string): string {
  return text
    .split(/\r\n|\r|\n/)
    .map((line) => `${name}: ${line}\n`)
    .join('');
}

function oneLine(text: string): string {
  return text.replaceAll(/[\r\n\0]+/g, ' ');
}
