export type JsonMap = Readonly<Record<string, unknown>>;

export function isJsonMap(value: unknown): value is JsonMap {
  return value !== null && typeof value === 'object' && !Array.isArray(value);
}
