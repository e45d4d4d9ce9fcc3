import type { Member } from './member.js';
import type { GatheredOperation } from './members.js';
import { changesByItself } from './own-effect.js';
import type { RecordKind } from './record-kind.js';
import type { ValueFlow } from './value-flow.js';

/**
 * Whether a place of an operation's calls only passes a value of the session on (a key of a row, an id that an answer gave
 * before): another session has others there, so that no case may ask for it.
 */
export function findPassingPlaces(
  { operation, members, subject }: GatheredOperation,
  kinds: readonly RecordKind[],
  flow: ValueFlow,
): (place: string) => boolean {
  const keyPlaces = new Set(
    operation.paramNames.flatMap((name, i) => (isKind(operation.paramKinds[i], kinds) ? [`path ${name}`] : [])),
  );
  const known = new Set(kinds.flatMap((kind) => [...kind.keys]));
  const isOfSession = (place: string, member: Member): boolean => {
    const value = member.features.get(place);
    return (
      known.has(String(value)) || (/^(query|path) /.test(place) && flow.isSentBefore(value, member.heard.position))
    );
  };
  const decide = (place: string): boolean => {
    if (keyPlaces.has(place) || TAG_PLACE.test(place)) return true;
    if (subject !== null && isKeyOfRow(place, subject.kind)) return true;
    if (place.startsWith('age ') && !members.some(changesByItself)) return true;
    if (place.startsWith('row')) return false;
    const having = members.filter((member) => member.features.has(place));
    return having.length > 0 && having.every((member) => isOfSession(place, member));
  };
  const decided = new Map<string, boolean>();
  return (place) => {
    const before = decided.get(place);
    if (before !== undefined) return before;
    const isPassing = decide(place);
    decided.set(place, isPassing);
    return isPassing;
  };
}

/** Entity tags of what was seen before. */
const TAG_PLACE = /^header if-(none-)?match$/;

/** A field of the row that says which one it is. */
function isKeyOfRow(place: string, { key, owner }: RecordKind): boolean {
  return [key, ...(owner?.fields ?? [])].some((field) => place === `row ${field}`);
}

function isKind(kind: RecordKind | null | undefined, kinds: readonly RecordKind[]): boolean {
  return kind !== null && kind !== undefined && kinds.includes(kind);
}
