import type { ContractMedia } from '../contract-operation.js';

/** `application/json` of `Application/JSON; charset=utf-8`. */
export function bareType(header: string): string {
  return (header.split(';')[0] ?? '').trim().toLowerCase();
}

/** What a contract says of a media type: by the type itself, else by a range that has it. */
export function findMedia(media: readonly ContractMedia[], type: string): ContractMedia | null {
  return media.find((own) => bareType(own.type) === type) ?? media.find((own) => isInRange(own.type, type)) ?? null;
}

/** Media ranges: any type, or any subtype of one (RFC 9110, 12.5.1). */
export function isInRange(range: string, type: string): boolean {
  const [main = '', sub = ''] = bareType(range).split('/');
  const [ownMain, ownSub] = type.split('/');
  return (main === '*' || main === ownMain) && (sub === '*' || sub === ownSub);
}

export function isJsonType(type: string): boolean {
  return /[/+]json$/i.test(bareType(type));
}
