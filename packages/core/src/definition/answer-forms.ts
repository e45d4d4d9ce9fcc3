import { z } from 'zod';
import { isHeaderName } from '../answer/header-text.js';
import { durationSchema } from './duration-schema.js';
import { strictKeys } from './strict-keys.js';

const scalar = z.union([z.string(), z.number(), z.boolean()]);

const FORM = '`form` maps fields to texts or lists of texts';
export const formSchema = z.record(z.string(), z.union([scalar, z.array(scalar), z.null()], { error: FORM }), {
  error: FORM,
});

const COOKIE = 'a cookie is a text, or { value, path, domain, maxAge, expires, sameSite, secure, httpOnly }';
const cookieSchema = strictKeys('a cookie', {
  value: scalar,
  path: z.string().optional(),
  domain: z.string().optional(),
  /** How long it lives: `1h`. */
  maxAge: durationSchema.optional(),
  expires: z.string().optional(),
  sameSite: z.enum(['strict', 'lax', 'none'], { error: '`sameSite` is strict, lax or none' }).optional(),
  secure: z.boolean().optional(),
  httpOnly: z.boolean().optional(),
});
export type CookieDefinition = z.output<typeof cookieSchema>;

export const cookiesSchema = z.record(
  z.string().refine(isHeaderName, { error: 'not a name that a cookie can have' }),
  // Written out: a mistake in a map is told as one of the map.
  z.union([z.string(), z.number(), z.boolean(), cookieSchema], { error: COOKIE }),
  { error: '`cookies` maps names to cookies' },
);

const eventSchema = strictKeys('an event', {
  event: z.string().optional(),
  id: scalar.optional(),
  data: z.json().optional(),
  comment: z.string().optional(),
  /** How long a client waits before it connects again. */
  retry: durationSchema.optional(),
  /** How long after the one before it; the list's `gap` unless said. */
  after: durationSchema.optional(),
});
export type EventDefinition = z.output<typeof eventSchema>;

const LIST = '`events` is a list such as [{ data: high }, { event: tide, data: { height: 2.4 }, after: 1s }]';
const eventListSchema = z.array(eventSchema, { error: LIST }).min(1, { error: '`events` needs an event' });

/** Server-Sent Events. `last`: what comes after the last one: the end, nothing more, or the first again. */
export const eventsSchema = z.union(
  [
    eventListSchema,
    strictKeys('`events`', {
      list: eventListSchema,
      gap: durationSchema.optional(),
      last: z.enum(['close', 'stay', 'again'], { error: '`last` is close, stay or again' }).optional(),
    }),
  ],
  { error: LIST },
);
export type Events = z.output<typeof eventsSchema>;

const TYPE = 'a media type such as application/json is expected';
/** Bodies by media type: the caller's `Accept` chooses. */
export const asSchema = z
  .record(z.string().regex(/^[\w.+-]+\/[\w.+-]+(\s*;.*)?$/, { error: TYPE }), z.json(), {
    error: '`as` maps media types to bodies',
  })
  .refine((map) => Object.keys(map).length > 0, { error: '`as` needs a media type' });

const FILE = '`file` names a file beside the service file: ./chart.png';
const besideContent = z.object({ content: z.string() });
const besidePath = z.object({ path: z.string(), size: z.int() });
/** A file beside, as it is once it was read; `choices`: those that the name may come to. */
export const fileSchema = z.union(
  [
    besideContent.extend({ name: z.string() }),
    besidePath.extend({ name: z.string() }),
    z.object({ name: z.string(), choices: z.record(z.string(), z.union([besideContent, besidePath])) }),
  ],
  { error: FILE },
);

/** Files of which the call names one. */
export interface NamedFiles {
  readonly name: string;
  readonly choices: Readonly<Record<string, { readonly content: string } | StoredFile>>;
}

/** A file that is so large that it is sent from where it is. `size` in bytes. */
export interface StoredFile {
  readonly path: string;
  readonly size: number;
}

const RELAY = '`relay` is true, or { headers: {...}, without: [...] }: what of the call is another for the upstream';
export const relaySchema = z.union(
  [
    z.literal(true),
    strictKeys('`relay`', {
      headers: z.record(z.string().refine(isHeaderName, { error: 'not a header name' }), scalar).optional(),
      without: z.array(z.string(), { error: '`without` lists headers' }).optional(),
      path: z.string({ error: '`path` is a text that begins with /' }).optional(),
    }),
  ],
  { error: RELAY },
);
export type RelayDefinition = z.output<typeof relaySchema>;

const SERVE = '`serve` is a list of etag, range and gzip';
export const serveSchema = z
  .array(z.enum(['etag', 'range', 'gzip'], { error: SERVE }), { error: SERVE })
  .min(1, { error: SERVE });
