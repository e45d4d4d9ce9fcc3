import { FILTER_WORDS, type FilterWord, type ResourceDefinition } from '../definition/resource.js';

/** The names of query parameters, each null where there is none. */
export interface QueryStyle {
  readonly search: string | null;
  readonly sort: string | null;
  readonly order: string | null;
  readonly page: string | null;
  readonly size: string | null;
  readonly offset: string | null;
  readonly limit: string | null;
  readonly fields: string | null;
  readonly with: string | null;
  /** What a parameter filters by; null: it is no filter. */
  readonly readFilter: (parameter: string) => { readonly field: string; readonly how: FilterWord } | null;
}

type Names = Omit<QueryStyle, 'readFilter'> & { readonly filter: string; readonly compare: string };

const PLAIN: Names = {
  filter: '{field}',
  compare: '{field}.{how}',
  search: 'search',
  sort: 'sort',
  order: null,
  page: 'page',
  size: 'size',
  offset: 'offset',
  limit: 'limit',
  fields: 'fields',
  with: 'with',
};

/** Source: https://jsonapi.org/format/1.1/ (6.3 inclusion, 6.4 fields, 6.5 sorting, 6.6 pagination, 6.7 filtering). */
function jsonApi(type: string): Names {
  return {
    filter: 'filter[{field}]',
    compare: 'filter[{field}][{how}]',
    search: null,
    sort: 'sort',
    order: null,
    page: 'page[number]',
    size: 'page[size]',
    offset: 'page[offset]',
    limit: 'page[limit]',
    fields: `fields[${type}]`,
    with: 'include',
  };
}

const PARAMETERS = ['search', 'sort', 'order', 'page', 'size', 'offset', 'limit', 'fields', 'with'] as const;

/** The conventions of a resource: those of its style, with what the file says in their place. */
export function compileQueryStyle({ style, query = {} }: ResourceDefinition, type: string): QueryStyle {
  const usual = style === 'json-api' ? jsonApi(type) : PLAIN;
  const names = Object.fromEntries(
    PARAMETERS.map((name) => [name, query[name] === false ? null : (query[name] ?? usual[name])]),
  ) as Omit<QueryStyle, 'readFilter'>;
  const taken = new Set(Object.values(names));
  const words = new Map(FILTER_WORDS.map((word) => [query.words?.[word] ?? word, word]));
  const plain = templatePattern(query.filter ?? usual.filter, [...words.keys()]);
  const compared = templatePattern(query.compare ?? usual.compare, [...words.keys()]);
  return {
    ...names,
    readFilter: (parameter) => {
      if (taken.has(parameter)) return null;
      const { field: comparedField, how } = compared.exec(parameter)?.groups ?? {};
      const word = how === undefined ? undefined : words.get(how);
      if (comparedField !== undefined && word !== undefined) return { field: comparedField, how: word };
      const field = plain.exec(parameter)?.groups?.['field'];
      return field === undefined ? null : { field, how: 'is' };
    },
  };
}

/** `{field}[{how}]` as a pattern; the words of `{how}` are known, so `berth.quay` is not read as a comparison. */
function templatePattern(template: string, words: readonly string[]): RegExp {
  const how = words.map(escapePattern).join('|');
  const source = template
    .split(/(\{field\}|\{how\})/)
    .map((part) =>
      part === '{field}' ? '(?<field>[^\\[\\]]+?)' : part === '{how}' ? `(?<how>${how})` : escapePattern(part),
    )
    .join('');
  return new RegExp(`^${source}$`);
}

function escapePattern(text: string): string {
  return text.replaceAll(/[\\^$.*+?()[\]{}|/-]/g, '\\$&');
}
