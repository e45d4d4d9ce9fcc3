import type { ParameterStyle } from './parameter-style.js';

/** A parameter's value as texts: one for paths, headers and cookies; names with texts for queries. */
export function writeQuery(name: string, value: unknown, style: ParameterStyle): (readonly [string, string])[] {
  if (style.kind === 'json') return [[name, JSON.stringify(value)]];
  if (Array.isArray(value))
    return style.isExploded && style.kind !== 'deepObject'
      ? value.map((item) => [name, toText(item)] as const)
      : [[name, value.map(toText).join(style.separator)]];
  if (value === null || typeof value !== 'object') return [[name, toText(value)]];
  if (style.kind === 'deepObject') return writeDeep(name, value);
  if (style.isExploded) return Object.entries(value).map(([key, own]) => [key, toText(own)] as const);
  return [
    [
      name,
      Object.entries(value)
        .flatMap(([key, own]) => [key, toText(own)])
        .join(style.separator),
    ],
  ];
}

/** As `writeQuery`, for what is one text. */
export function writeOne(name: string, value: unknown, style: ParameterStyle): string {
  if (style.kind === 'json') return JSON.stringify(value);
  const isMatrix = style.kind === 'matrix';
  const start = isMatrix ? ';' : style.kind === 'label' ? '.' : '';
  const between = style.isExploded && start !== '' ? start : ',';
  if (Array.isArray(value)) {
    if (isMatrix && style.isExploded) return value.map((item) => `;${name}=${toText(item)}`).join('');
    const separator = style.kind === 'simple' || style.kind === 'form' ? style.separator : between;
    return `${start}${isMatrix ? `${name}=` : ''}${value.map(toText).join(separator)}`;
  }
  if (value === null || typeof value !== 'object') return `${start}${isMatrix ? `${name}=` : ''}${toText(value)}`;
  const parts = Object.entries(value).map(([key, own]) => `${key}${style.isExploded ? '=' : ','}${toText(own)}`);
  return `${start}${isMatrix && !style.isExploded ? `${name}=` : ''}${parts.join(between)}`;
}

function writeDeep(name: string, value: object): (readonly [string, string])[] {
  return Object.entries(value).flatMap(([key, own]) => {
    if (Array.isArray(own)) return own.map((item) => [`${name}[${key}]`, toText(item)] as const);
    if (own !== null && typeof own === 'object') return writeDeep(`${name}[${key}]`, own);
    return [[`${name}[${key}]`, toText(own)] as const];
  });
}

function toText(value: unknown): string {
  if (value === null || value === undefined) return '';
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}
