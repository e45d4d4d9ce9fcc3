/** One part of a multipart form (RFC 7578). */
export interface FormPart {
  readonly name: string;
  /** Null: a field, no file. */
  readonly fileName: string | null;
  readonly content: Uint8Array;
}

const MOST_PARTS = 1_000;
const DASH = 0x2d;
const LINE_END = new Uint8Array([0x0d, 0x0a]);
const HEAD_END = new Uint8Array([0x0d, 0x0a, 0x0d, 0x0a]);

/**
 * The parts of a multipart body that is there as a whole; null when the content type names no boundary. A broken body has
 * the parts before the break. (The parsers of the registry are streams that end a turn later; a call is decided in one.)
 */
export function readMultipart(contentType: string, body: Uint8Array): readonly FormPart[] | null {
  const boundary = parameterOf(contentType, 'boundary');
  if (boundary === null || boundary === '') return null;
  const delimiter = new TextEncoder().encode(`--${boundary}`);
  const parts: FormPart[] = [];
  let at = indexOf(body, delimiter, 0);
  while (at >= 0 && parts.length < MOST_PARTS) {
    const start = at + delimiter.length;
    if (body[start] === DASH && body[start + 1] === DASH) break;
    const next = nextDelimiter(body, delimiter, start);
    const part = readPart(body.subarray(start, next < 0 ? body.length : next - LINE_END.length));
    if (part !== null && next >= 0) parts.push(part);
    at = next;
  }
  return parts;
}

/** A delimiter stands at the beginning of a line. */
function nextDelimiter(body: Uint8Array, delimiter: Uint8Array, from: number): number {
  for (let at = indexOf(body, delimiter, from); at >= 0; at = indexOf(body, delimiter, at + 1))
    if (body[at - 2] === LINE_END[0] && body[at - 1] === LINE_END[1]) return at;
  return -1;
}

function readPart(bytes: Uint8Array): FormPart | null {
  const end = indexOf(bytes, HEAD_END, 0);
  if (end < 0) return null;
  const head = new TextDecoder().decode(bytes.subarray(0, end));
  const disposition = /^content-disposition:\s*form-data\s*;?(.*)$/im.exec(head)?.[1] ?? '';
  const name = parameterOf(disposition, 'name');
  if (name === null) return null;
  return { name, fileName: parameterOf(disposition, 'filename'), content: bytes.subarray(end + HEAD_END.length) };
}

/** `name="a"` or `name=a`, quotes in it as `%22` (WHATWG HTML, 4.10.21.8) or `\"`. */
function parameterOf(header: string, name: string): string | null {
  const match = new RegExp(`(?:^|[;\\s])${name}=(?:"((?:[^"\\\\]|\\\\.)*)"|([^;\\s]*))`, 'i').exec(header);
  if (match === null) return null;
  return (match[1]?.replaceAll(/\\(.)/g, '$1').replaceAll('%22', '"') ?? match[2]) || '';
}

function indexOf(bytes: Uint8Array, wanted: Uint8Array, from: number): number {
  const [first = 0] = wanted;
  for (let at = bytes.indexOf(first, from); at >= 0; at = bytes.indexOf(first, at + 1)) {
    let i = 1;
    while (i < wanted.length && bytes[at + i] === wanted[i]) i++;
    if (i === wanted.length) return at;
  }
  return -1;
}
