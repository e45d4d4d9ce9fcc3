import type { When } from '../definition/when.js';
import { parseElementName, type SoapAddress } from '../soap/soap-address.js';
import { type MixedSegment, PARAMETER, parseMixedSegment } from './mixed-segment.js';

/** One segment of a path template: a literal, a parameter `{name}`, one with parameters in it, or the tail `{name...}` that takes the rest. */
export type TemplateSegment =
  | { readonly kind: 'literal'; readonly text: string }
  | { readonly kind: 'parameter'; readonly name: string }
  | MixedSegment
  | { readonly kind: 'tail'; readonly name: string };

export interface OperationAddress {
  readonly method: string;
  readonly template: string;
  readonly segments: readonly TemplateSegment[];
  readonly names: readonly string[];
  /** How its calls are told from others with the same method and path; null: it has them to itself. */
  readonly soap: SoapAddress | null;
}

/** An `on` that is no text: a SOAP operation, by its name and the path its service is at. */
export interface SoapOn {
  readonly soap: string;
  readonly at: string;
  readonly element?: string | undefined;
  readonly action?: string | undefined;
}

/** An `on` of one operation of several with the same method and path. */
export interface CallOn {
  readonly call: string;
  readonly when: When;
}

export type OperationOn = string | SoapOn | CallOn;

export type ParsedAddress =
  | { readonly kind: 'address'; readonly address: OperationAddress }
  | { readonly kind: 'refused'; readonly message: string };

const METHOD = /^([A-Z][A-Z-]*|\*)$/;

/** `GET /berths/{berthId}` as method and segments. */
export function parseOperationAddress(text: string): ParsedAddress {
  const [method = '', template = '', ...rest] = text.trim().split(/\s+/);
  if (!METHOD.test(method))
    return refused(
      `a method in capitals (or *) is expected before the path, such as GET /berths, not ${JSON.stringify(text)}`,
    );
  if (!template.startsWith('/') || rest.length > 0)
    return refused('a path template that starts with / is expected after the method');
  if (template.includes('?')) return refused('a path template has no query; write `query NAME` under `when`');
  const segments: TemplateSegment[] = [];
  for (const part of template.slice(1).split('/')) {
    const segment = parseSegment(part);
    if (typeof segment === 'string') return refused(segment);
    if (segments.at(-1)?.kind === 'tail') return refused('the tail {name...} is the last segment of a path');
    segments.push(segment);
  }
  const names = segments.flatMap(namesOfSegment);
  const twice = names.find((name, i) => names.indexOf(name) !== i);
  if (twice !== undefined) return refused(`the parameter {${twice}} stands twice in the path`);
  return { kind: 'address', address: { method, template, segments, names, soap: null } };
}

/** An `on` of any kind. */
export function parseOn(on: OperationOn): ParsedAddress {
  if (typeof on === 'string') return parseOperationAddress(on);
  if ('call' in on) return parseOperationAddress(on.call);
  const parsed = parseOperationAddress(`POST ${on.at}`);
  if (parsed.kind === 'refused') return refused(`\`at\`: ${parsed.message.replace(' after the method', '')}`);
  const soap = { name: on.soap, ...parseElementName(on.element ?? on.soap), action: on.action ?? null };
  return { kind: 'address', address: { ...parsed.address, soap } };
}

/** The address without the slash at its end: where that does not count, calls are looked up without it as well. */
export function dropEndSlash(address: OperationAddress): OperationAddress {
  const { segments } = address;
  const last = segments.at(-1);
  const ends = segments.length > 1 && last?.kind === 'literal' && last.text === '';
  return ends ? { ...address, segments: segments.slice(0, -1) } : address;
}

/** An `on` as people read it: `GET /berths/{berthId}`, `POST /manifests soap lodgeManifest`. */
export function describeOn(on: OperationOn): string {
  if (typeof on === 'string') return on.trim();
  return 'call' in on ? `${on.call.trim()} when ${Object.keys(on.when).join(', ')}` : `POST ${on.at} soap ${on.soap}`;
}

function parseSegment(part: string): TemplateSegment | string {
  if (!part.includes('{') && !part.includes('}')) return { kind: 'literal', text: decodeSegment(part) };
  const match = PARAMETER.exec(part);
  if (match === null)
    return (
      parseMixedSegment(part, decodeSegment) ??
      `a parameter is a segment, {berthId}, or parts of one with text between them, {berthId}.{format}; ${JSON.stringify(part)} is neither`
    );
  const name = match[1] ?? '';
  return match[2] === undefined ? { kind: 'parameter', name } : { kind: 'tail', name };
}

export function namesOfSegment(segment: TemplateSegment): readonly string[] {
  return segment.kind === 'literal' ? [] : segment.kind === 'mixed' ? segment.names : [segment.name];
}

/** A segment whatever its parameters are called. */
export function segmentShape(segment: TemplateSegment): string {
  return segment.kind === 'literal'
    ? `=${segment.text}`
    : segment.kind === 'mixed'
      ? `~${segment.texts.join('{}')}`
      : segment.kind;
}

/** What makes two addresses the same to a caller: method, literals, and where parameters stand, whatever their names. */
export function addressShape(address: OperationAddress): string {
  return `${address.method} ${address.segments.map(segmentShape).join('/')}${address.soap === null ? '' : ` ${soapShape(address.soap)}`}`;
}

function soapShape({ namespace, element, action }: SoapAddress): string {
  return `{${namespace ?? ''}}${element} ${action ?? ''}`;
}

/** A path segment decoded once; what is no valid percent-encoding stays as it came. `%2F` becomes a slash inside the segment. */
export function decodeSegment(segment: string): string {
  if (!segment.includes('%')) return segment;
  try {
    return decodeURIComponent(segment);
  } catch {
    return segment;
  }
}

function refused(message: string): ParsedAddress {
  return { kind: 'refused', message };
}
