/**
 * The candidate that a misspelt word most likely means, or null when none is close.
 * Optimal string alignment distance (a swap of neighbours counts one); accepted up to a third of the word's length, at least 1.
 */
export function findNearest(word: string, candidates: Iterable<string>): string | null {
  const low = word.toLowerCase();
  let best: string | null = null;
  let bestDistance = Math.max(1, Math.floor(low.length / 3)) + 1;
  for (const candidate of candidates) {
    const distance = editDistance(low, candidate.toLowerCase(), bestDistance);
    if (distance < bestDistance) {
      best = candidate;
      bestDistance = distance;
    }
  }
  return best;
}

function editDistance(a: string, b: string, limit: number): number {
  if (Math.abs(a.length - b.length) >= limit) return limit;
  const width = b.length + 1;
  let before: number[] = [];
  let previous = Array.from({ length: width }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j < width; j++) {
      const cost = a[i - 1] === b[j - 1] ? 0 : 1;
      let value = Math.min((previous[j] ?? 0) + 1, (row[j - 1] ?? 0) + 1, (previous[j - 1] ?? 0) + cost);
      const swapped = i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1];
      if (swapped) value = Math.min(value, (before[j - 2] ?? 0) + 1);
      row.push(value);
    }
    before = previous;
    previous = row;
  }
  return previous[b.length] ?? limit;
}
