import { isJsonMap, type JsonMap } from '../json-map.js';
import type { PathKey } from '../yaml-source.js';

/** What a body's file holds: JSON, rows of a dataset, text, or bytes; `file`: bytes with their name, whose ending says what they are. */
export type BodyForm = 'json' | 'rows' | 'text' | 'base64' | 'file';

/** A place in a service file that may hold its value or refer to a file beside it. */
export interface BodySpot {
  readonly path: readonly PathKey[];
  readonly form: BodyForm;
  readonly value: unknown;
  /** What is there: an operation and case, or a dataset. */
  readonly of: readonly string[];
  /** How the columns of rows are read, as the file says it. */
  readonly types?: unknown;
}

const FORMS: Readonly<Record<string, BodyForm>> = {
  json: 'json',
  problem: 'json',
  text: 'text',
  xml: 'text',
  soap: 'text',
  html: 'text',
  base64: 'base64',
  file: 'file',
};

/** The bodies of all answers, the rows of all datasets, and certificates, of a definition that may still be anything. */
export function bodySpots(definition: unknown): BodySpot[] {
  if (!isJsonMap(definition)) return [];
  const { datasets, operations, listen } = definition;
  return [
    ...listenSpots(listen),
    ...keySpots(definition, [], ['access']),
    ...entriesOf(datasets).flatMap(([name, dataset]): BodySpot[] =>
      isJsonMap(dataset) && dataset['rows'] !== undefined
        ? [
            {
              path: ['datasets', name, 'rows'],
              form: 'rows',
              value: dataset['rows'],
              of: [name],
              types: dataset['types'],
            },
          ]
        : [],
    ),
    ...entriesOf(operations).flatMap(([name, operation]) =>
      isJsonMap(operation) ? keySpots(operation, ['operations', name], [name, 'access']) : [],
    ),
    ...entriesOf(operations).flatMap(([name, operation]) =>
      isJsonMap(operation) && Array.isArray(operation['cases'])
        ? operation['cases'].flatMap((item, i) => caseSpots(item, ['operations', name, 'cases', i], name))
        : [],
    ),
  ];
}

/** Certificates and keys. */
function listenSpots(listen: unknown): BodySpot[] {
  const tls = isJsonMap(listen) ? listen['tls'] : null;
  const clients = isJsonMap(tls) ? tls['clients'] : null;
  const spot = (map: unknown, key: string, path: readonly PathKey[]): BodySpot[] =>
    isJsonMap(map) && map[key] !== undefined
      ? [{ path: [...path, key], form: 'text', value: map[key], of: ['listen', key] }]
      : [];
  return [
    ...spot(tls, 'certificate', ['listen', 'tls']),
    ...spot(tls, 'key', ['listen', 'tls']),
    ...spot(clients, 'authority', ['listen', 'tls', 'clients']),
  ];
}

/** Keys that tokens are verified with: a set of them, or one in PEM. */
function keySpots({ access }: JsonMap, path: readonly PathKey[], of: readonly string[]): BodySpot[] {
  const bearer = isJsonMap(access) ? access['bearer'] : null;
  const jwt = isJsonMap(bearer) ? bearer['jwt'] : null;
  if (!isJsonMap(jwt)) return [];
  const at = [...path, 'access', 'bearer', 'jwt'];
  return [
    ...(typeof jwt['keys'] === 'string' && jwt['keys'] !== 'own'
      ? [{ path: [...at, 'keys'], form: 'json' as const, value: jwt['keys'], of: [...of, 'keys'] }]
      : []),
    ...(typeof jwt['key'] === 'string' && jwt['key'].startsWith('./')
      ? [{ path: [...at, 'key'], form: 'text' as const, value: jwt['key'], of: [...of, 'key'] }]
      : []),
  ];
}

/** The same for the same body, wherever its case stands in its operation. */
export function spotId({ of, path }: BodySpot): string {
  return [...of, path.at(-1)].join('\0');
}

function caseSpots(item: unknown, path: readonly PathKey[], operation: string): BodySpot[] {
  if (!isJsonMap(item) || !isJsonMap(item['answer'])) return [];
  const { answer } = item;
  const of = [operation, String(item['case'])];
  const turns = isJsonMap(answer['turns']) ? answer['turns']['list'] : null;
  return [
    ...answerSpots(answer, [...path, 'answer'], of),
    ...(Array.isArray(turns)
      ? turns.flatMap((turn, i) => answerSpots(turn, [...path, 'answer', 'turns', 'list', i], [...of, String(i + 1)]))
      : []),
  ];
}

function answerSpots(answer: unknown, path: readonly PathKey[], of: readonly string[]): BodySpot[] {
  if (!isJsonMap(answer)) return [];
  const own = Object.entries(FORMS).flatMap(([key, form]): BodySpot[] =>
    answer[key] === undefined ? [] : [{ path: [...path, key], form, value: answer[key], of }],
  );
  const negotiated = entriesOf(answer['as']).map(([type, value]): BodySpot => {
    const form = /\bjson\b/i.test(type) ? 'json' : 'text';
    return { path: [...path, 'as', type], form, value, of: [...of, type] };
  });
  return [...own, ...negotiated];
}

function entriesOf(value: unknown): [string, unknown][] {
  return isJsonMap(value) ? Object.entries(value) : [];
}
