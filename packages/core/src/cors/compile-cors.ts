import type { CorsDefinition } from '../definition/cors.js';
import { parseDuration } from '../definition/duration.js';

/** What pages may do (Fetch standard, 3.2). `null` lists: whatever is asked for, or is there. */
export interface CorsRules {
  readonly allows: (origin: string) => boolean;
  readonly methods: readonly string[] | null;
  readonly headers: readonly string[] | null;
  readonly expose: readonly string[] | null;
  readonly credentials: boolean;
  readonly maxAgeSeconds: number;
}

/** Short: a changed service file is not held up by what browsers remember of the one before. */
const USUAL_MAX_AGE = 5;

const ANY_PAGE: CorsRules = {
  allows: () => true,
  methods: null,
  headers: null,
  expose: null,
  credentials: true,
  maxAgeSeconds: USUAL_MAX_AGE,
};

/** Null: no page is let in. What rules leave out is as without rules. */
export function compileCors(cors: CorsDefinition = true): CorsRules | null {
  if (typeof cors === 'boolean') return cors ? ANY_PAGE : null;
  const maxAge = cors.maxAge === undefined ? null : parseDuration(cors.maxAge);
  return {
    allows: cors.origins === undefined ? ANY_PAGE.allows : matchOrigins(cors.origins),
    methods: cors.methods ?? null,
    headers: cors.headers ?? null,
    expose: cors.expose ?? null,
    credentials: cors.credentials ?? true,
    maxAgeSeconds: maxAge === null ? USUAL_MAX_AGE : Math.floor(maxAge / 1000),
  };
}

/** `*` stands for a part of the host: one label or several, never for a scheme, a port or nothing. */
function matchOrigins(origins: readonly string[]): (origin: string) => boolean {
  const exact = new Set(origins.map((origin) => origin.toLowerCase()));
  const patterns = [...exact]
    .filter((origin) => origin.includes('*'))
    .map((origin) => new RegExp(`^${origin.split('*').map(literally).join('[a-z0-9._-]+')}$`));
  return (origin) => {
    const own = origin.toLowerCase();
    return exact.has(own) || patterns.some((pattern) => pattern.test(own));
  };
}

function literally(text: string): string {
  return text.replaceAll(/[$()*+.?[\\\]^{|}]/g, '\\$&');
}
