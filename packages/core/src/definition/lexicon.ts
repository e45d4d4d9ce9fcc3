import { z } from 'zod';

const WORDS = 'a list of words is expected, such as [Anna Grey, Petrel]';
const wordsSchema = z.array(z.union([z.string(), z.number(), z.boolean()]), { error: WORDS }).min(1, { error: WORDS });
const byFieldSchema = z.record(z.string(), wordsSchema, { error: '`in` maps schemas to fields with their words' });

/** The team's words for generated values: field -> words; under `in`, schema -> field -> words. */
export const lexiconSchema = z
  .object(
    { in: z.record(z.string(), byFieldSchema, { error: '`in` maps schemas to fields with their words' }).optional() },
    { error: '`lexicon` maps fields to words' },
  )
  .catchall(wordsSchema);
export type Lexicon = z.output<typeof lexiconSchema>;

type Word = string | number | boolean;

/** The words for a field, those of its schema first; none: empty. Letters of either case, `_` and `-` are the same. */
export function wordsFor(lexicon: Lexicon, field: string, schema: string | null): readonly Word[] {
  const { in: bySchema = {}, ...byField } = lexicon;
  const own = schema === null ? undefined : bySchema[schema];
  return (own === undefined ? undefined : find(own, field)) ?? find(byField as Record<string, Word[]>, field) ?? [];
}

function find(words: Readonly<Record<string, readonly Word[]>>, field: string): readonly Word[] | undefined {
  if (Object.hasOwn(words, field)) return words[field];
  const wanted = plain(field);
  return Object.entries(words).find(([name]) => plain(name) === wanted)?.[1];
}

function plain(name: string): string {
  return name.replaceAll(/[_-]/g, '').toLowerCase();
}
