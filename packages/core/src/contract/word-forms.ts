const IRREGULAR: Readonly<Record<string, string>> = {
  people: 'person',
  children: 'child',
  news: 'news',
  series: 'series',
  shelves: 'shelf',
  halves: 'half',
  leaves: 'leaf',
  wharves: 'wharf',
};

/** One of several: bookings -> booking, entries -> entry, boxes -> box. */
export function singularOf(word: string): string {
  const known = IRREGULAR[word.toLowerCase()];
  if (known !== undefined) return known;
  if (/(ss|us|is)$/.test(word)) return word;
  if (/ies$/.test(word)) return word.replace(/ies$/, 'y');
  if (/(x|ch|sh|ss|z)es$/.test(word)) return word.replace(/es$/, '');
  return word.replace(/s$/, '');
}

export function isPlural(word: string): boolean {
  return singularOf(word) !== word;
}
