import type { JsonMap } from '../definition/json-map.js';
import { headerOf } from '../traffic/exchange.js';
import { createSecretWords } from '../traffic/secret-words.js';
import type { Heard } from './heard.js';
import { eachLeaf, type Scalar } from './leaves.js';

/** What conditions could ask about one exchange: place -> value. A place that is not there is not in the map. */
export type Features = ReadonlyMap<string, Scalar>;

const MOST_FEATURES = 80;
/** Headers that choose between answers; others say who calls and how. */
const TELLING_HEADERS = [
  'accept',
  'accept-language',
  'prefer',
  'if-match',
  'if-none-match',
  'range',
  'x-http-method-override',
];
/** Headers that show who calls: only whether they are there is asked. */
const CREDENTIALS = /^(authorization|(x-)?.*(key|token|session|auth|secret|signature).*)$/;
/** Headers of an application's own that say nothing about the answer. */
const NOT_TELLING = /^x-(request|correlation|trace|forwarded|real|b3|amzn|client|requested)\b|id$|^upsetter-/;

/** The features of a request: parameters of the path by their names, query, form, JSON, headers that matter. */
export function readFeatures(heard: Heard, paramNames: readonly (string | null)[]): Map<string, Scalar> {
  const features = new Map<string, Scalar>();
  paramNames.forEach((name, i) => {
    if (name !== null) features.set(`path ${name}`, heard.segments[i] ?? '');
  });
  for (const [name, value] of heard.query) addNamed(features, 'query', name, value);
  for (const [name, value] of heard.form) addNamed(features, 'form', name, value);
  eachLeaf(heard.sentJson, (value, steps) => {
    if (features.size >= MOST_FEATURES || steps.length === 0) return;
    features.set(`json $${pathOf(steps)}`, isSecret(String(steps.at(-1))) ? PRESENT : value);
  });
  for (const name of TELLING_HEADERS) {
    const value = headerOf(heard.exchange.requestHeaders, name);
    if (value !== null) features.set(`header ${name}`, value);
  }
  addOwnHeaders(features, heard.exchange.requestHeaders);
  return features;
}

function addNamed(features: Map<string, Scalar>, group: string, name: string, value: string): void {
  // A name that a place cannot be written with is passed over.
  if (name === '' || name !== name.trim()) return;
  features.set(`${group} ${name}`, isSecret(name) ? PRESENT : value);
}

/** A masked value is never compared: the caller sends it in clear. */
const isSecret = createSecretWords().isSecretName;

/** Credentials, cookies and headers of the application's own (`x-...`). */
function addOwnHeaders(features: Map<string, Scalar>, raw: readonly string[]): void {
  for (let i = 0; i < raw.length; i += 2) {
    const name = raw[i]?.toLowerCase() ?? '';
    if (name === 'cookie') addCookies(features, raw[i + 1] ?? '');
    else if (CREDENTIALS.test(name)) features.set(`header ${name}`, PRESENT);
    else if (name.startsWith('x-') && !NOT_TELLING.test(name)) features.set(`header ${name}`, raw[i + 1] ?? '');
  }
}

/** Cookies are secrets (RFC 6265, 5.4 has their form): only whether each is there is asked. */
function addCookies(features: Map<string, Scalar>, header: string): void {
  for (const pair of header.split(';')) {
    const name = pair.slice(0, Math.max(0, pair.indexOf('='))).trim();
    if (name !== '') features.set(`cookie ${name}`, PRESENT);
  }
}

/** A value that is only ever asked whether it is there: a secret is never compared. */
export const PRESENT = '\u0000present';

/** The features of a row that the call speaks of. */
export function addRowFeatures(features: Map<string, Scalar>, row: JsonMap | null): void {
  if (row === null) return;
  features.set('row', PRESENT);
  for (const [field, value] of Object.entries(row))
    if (value === null || typeof value !== 'object') features.set(`row ${field}`, value as Scalar);
}

/** Steps as a JSONPath (RFC 9535, 2.3.1.1; escapes as in JSON). */
export function pathOf(steps: readonly (string | number)[]): string {
  return steps.map((step) => (typeof step === 'number' ? `[${step}]` : memberStep(step))).join('');
}

function memberStep(name: string): string {
  if (/^[A-Za-z_]\w*$/.test(name)) return `.${name}`;
  const escaped = JSON.stringify(name).slice(1, -1).replaceAll('\\"', '"').replaceAll("'", "\\'");
  return `['${escaped}']`;
}
