import { isJsonMap } from '../../definition/json-map.js';
import { isJsonType } from './media-type.js';

/** A value, and the media type it is written down in. */
export interface SampleBody {
  readonly type: string;
  readonly value: unknown;
}

/** No value that is made up has it. */
const BOUNDARY = 'upsetter-sample-9c1f40';

/** A body as bytes of its media type. */
export function writeBody({ type, value }: SampleBody): { contentType: string; bytes: Uint8Array } {
  if (isJsonType(type) || type === '*/*')
    return { contentType: type === '*/*' ? 'application/json' : type, bytes: encode(JSON.stringify(value)) };
  const fields = isJsonMap(value) ? fieldsOf(value) : [];
  if (type === 'application/x-www-form-urlencoded')
    return { contentType: type, bytes: encode(new URLSearchParams(fields).toString()) };
  if (type === 'multipart/form-data')
    return { contentType: `${type}; boundary=${BOUNDARY}`, bytes: encode(writeMultipart(fields)) };
  return { contentType: type, bytes: encode(typeof value === 'string' ? value : JSON.stringify(value)) };
}

/** Lists are fields that come several times; maps are JSON (OpenAPI 3.1, 4.8.15.1). */
function fieldsOf(value: Readonly<Record<string, unknown>>): [string, string][] {
  return Object.entries(value).flatMap(([name, own]): [string, string][] =>
    Array.isArray(own) ? own.map((item) => [name, toText(item)]) : own === undefined ? [] : [[name, toText(own)]],
  );
}

function toText(value: unknown): string {
  if (value === null) return '';
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}

function writeMultipart(fields: readonly (readonly [string, string])[]): string {
  const parts = fields.map(
    ([name, text]) => `--${BOUNDARY}\r\ncontent-disposition: form-data; name="${escapeName(name)}"\r\n\r\n${text}\r\n`,
  );
  return `${parts.join('')}--${BOUNDARY}--\r\n`;
}

/** As browsers do (WHATWG HTML, 4.10.21.8). */
function escapeName(name: string): string {
  return name.replaceAll('"', '%22').replaceAll('\r', '%0D').replaceAll('\n', '%0A');
}

function encode(text: string): Uint8Array {
  return new TextEncoder().encode(text);
}
