import { isJsonMap } from '../definition/json-map.js';
import type { Source } from './explain-source.js';
import type { Heard } from './heard.js';
import { memberExpression } from './leaves.js';
import { shapeOf } from './value-shape.js';

const MOST_SOURCES = 250;

/** Everything an expression could read from the call itself. */
export function addCallSources(
  sources: Map<string, Source>,
  heard: Heard,
  paramNames: readonly (string | null)[],
): void {
  paramNames.forEach((name, i) => {
    if (name === null) return;
    addText(sources, `call.path.${name}`, heard.segments[i] ?? '', name);
  });
  addValue(sources, 'call.json', heard.sentJson, '');
  add(sources, 'call.origin', heard.exchange.origin, 'origin');
  for (const [name, value] of heard.query) addText(sources, `call.query${memberExpression([name])}`, value, name);
  for (const [name, value] of heard.form) addText(sources, `call.form${memberExpression([name])}`, value, name);
}

/** A text, and the number it may stand for. */
function addText(sources: Map<string, Source>, text: string, value: string, name: string): void {
  add(sources, text, value, name);
  if (shapeOf(value) === 'number') add(sources, `number(${text})`, Number(value), name);
}

/** A JSON value with everything in it. */
export function addValue(sources: Map<string, Source>, text: string, value: unknown, name: string): void {
  if (value === undefined || sources.size >= MOST_SOURCES) return;
  add(sources, text, value, name);
  if (isJsonMap(value)) {
    for (const [key, member] of Object.entries(value)) addValue(sources, text + memberExpression([key]), member, key);
  } else if (Array.isArray(value)) {
    for (const [i, item] of value.slice(0, 5).entries()) addValue(sources, `${text}[${i}]`, item, name);
  }
}

export function add(sources: Map<string, Source>, text: string, value: unknown, name: string): void {
  if (sources.size < MOST_SOURCES && !sources.has(text)) sources.set(text, { text, value, name });
}
