/** The member that a place ends with, whatever items of it follow: `depth` of `GET /berths.list[1].depth[0]`; empty: none. */
export function memberOf(place: string): string {
  let end = place.length;
  while (place[end - 1] === ']') end = place.lastIndexOf('[', end - 1);
  let start = end;
  while (start > 0 && isNamePart(place.charCodeAt(start - 1))) start--;
  return place.slice(start, end).replace(/^[^A-Za-z_]+/, '');
}

/** Letters, digits, `_` and `-`. */
function isNamePart(code: number): boolean {
  const isDigit = code >= 48 && code <= 57;
  const isLetter = (code >= 65 && code <= 90) || (code >= 97 && code <= 122);
  return isDigit || isLetter || code === 95 || code === 45;
}

const MOST_REMEMBERED = 5_000;

/** What a function makes of names, remembered: large contracts have the same ones again and again. */
export function byName<T>(make: (name: string) => T): (name: string) => T {
  const known = new Map<string, T>();
  return (name) => {
    const before = known.get(name);
    if (before !== undefined) return before;
    if (known.size >= MOST_REMEMBERED) known.clear();
    const made = make(name);
    known.set(name, made);
    return made;
  };
}
