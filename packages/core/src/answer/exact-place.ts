import { compile, type JSONPathQuery } from 'json-p3';
import type { PathKey } from '../definition/yaml-source.js';
import { headerOf } from '../traffic/exchange.js';

/** A place in an answer whose value a trial holds to be the very one of the case. */
export interface ExactPlace {
  /** `json $.quay`, `header cache-control` */
  readonly text: string;
  /** The value as JSON; null: it is not there. */
  readonly read: (headers: readonly string[], json: unknown) => string | null;
}

const EXPECTED = '`exact` lists places of the answer: json $.quay, header cache-control';

export function compileExact(
  texts: readonly string[] | undefined,
  path: readonly PathKey[],
  report: (message: string, path: readonly PathKey[]) => void,
): readonly ExactPlace[] {
  return (texts ?? []).flatMap((text, i) => {
    const [kind = '', rest = ''] = splitOnce(text.trim());
    if (kind === 'header' && rest !== '')
      return [{ text, read: (headers) => headerOf(headers, rest.toLowerCase()) } satisfies ExactPlace];
    const query = kind === 'json' ? tryCompile(rest) : `${EXPECTED}, not ${JSON.stringify(text)}`;
    if (typeof query === 'string') {
      report(query, [...path, i]);
      return [];
    }
    return [{ text, read: (_headers, json) => readJson(query, json) } satisfies ExactPlace];
  });
}

function splitOnce(text: string): [string, string] {
  const at = text.indexOf(' ');
  return at < 0 ? [text, ''] : [text.slice(0, at), text.slice(at + 1).trim()];
}

function tryCompile(text: string): JSONPathQuery | string {
  try {
    return compile(text);
  } catch (error) {
    return `not a JSONPath (RFC 9535): ${(error as Error).message}`;
  }
}

function readJson(query: JSONPathQuery, json: unknown): string | null {
  const values = query.query(json as never).values();
  return values.length === 0 ? null : JSON.stringify(values.length === 1 ? values[0] : values);
}
