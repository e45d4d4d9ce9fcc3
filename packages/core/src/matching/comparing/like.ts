/**
 * Whether a text is like a pattern: `*` any characters, `?` one. The whole text must fit.
 * Greedy with one point of return, so the cost is at most text times pattern, whatever the caller sends.
 */
export function matchLike(text: string, pattern: string): boolean {
  let t = 0;
  let p = 0;
  let star = -1;
  let mark = 0;
  while (t < text.length) {
    const wanted = pattern[p];
    if (wanted === '*') {
      star = p++;
      mark = t;
    } else if (wanted !== undefined && (wanted === '?' || wanted === text[t])) {
      t++;
      p++;
    } else if (star >= 0) {
      p = star + 1;
      t = ++mark;
    } else return false;
  }
  while (pattern[p] === '*') p++;
  return p === pattern.length;
}
