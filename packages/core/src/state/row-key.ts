/** The fields that tell the rows of a dataset apart: one, or several together. */
export type RowKey = readonly string[];

export function isSameKey(a: RowKey, b: RowKey): boolean {
  return a === b || (a.length === b.length && a.every((field, i) => field === b[i]));
}

/** The key as the file has it: `id`, or `[code, no]`. */
export function toRowKey(key: string | readonly string[]): RowKey {
  return typeof key === 'string' ? [key] : key;
}

/** What the rows of a dataset are found by: the same text for the same key, and no other. */
export function identifyRow(row: Readonly<Record<string, unknown>>, key: RowKey): string {
  const [only = ''] = key;
  return key.length === 1 ? String(row[only]) : identify(key.map((field) => row[field]));
}

/** The same text for the same values of the fields of a key. */
export function identify(values: readonly unknown[]): string {
  return values.length === 1 ? String(values[0]) : JSON.stringify(values.map(String));
}

/** The first field of the key that a row has no text or number for; null when it has them all. */
export function findMissingField(row: Readonly<Record<string, unknown>>, key: RowKey): string | null {
  const isMissing = (value: unknown): boolean => value === undefined || value === null || typeof value === 'object';
  return key.find((field) => isMissing(row[field])) ?? null;
}
