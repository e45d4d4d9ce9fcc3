/** How an answer is changed so that its caller stays with the relay. Header lists are flat. */
export interface AnswerRewrite {
  readonly headers: (flat: readonly string[]) => string[];
  readonly body: (body: Buffer) => Buffer;
}

const LOCATING = new Set(['location', 'content-location', 'refresh', 'link']);
const TEXT_TYPE = /^(text\/(?!event-stream)|application\/(.*\+)?(json|xml|javascript))/i;

/** Redirects, links and cookies of `upstream` as those of `address`; both are origins. */
export function createRewrite(upstream: string, address: string): AnswerRewrite {
  const replace = (text: string): string => text.replaceAll(upstream, address);
  return {
    headers: (flat) =>
      flat.map((value, i) => {
        if (i % 2 === 0) return value;
        const name = (flat[i - 1] ?? '').toLowerCase();
        if (LOCATING.has(name)) return replace(value);
        // The relay speaks plain HTTP on another host: a cookie bound to either would be lost.
        return name === 'set-cookie' ? value.replaceAll(/;\s*(domain=[^;]*|secure)(?=;|$)/gi, '') : value;
      }),
    body: (body) => {
      const text = body.toString('utf8');
      return text.includes(upstream) ? Buffer.from(replace(text)) : body;
    },
  };
}

/** Whether an answer of these headers is a text that can be rewritten. */
export function isRewritten(flat: readonly string[]): boolean {
  return (
    TEXT_TYPE.test(headerValue(flat, 'content-type')) && /^(identity)?$/i.test(headerValue(flat, 'content-encoding'))
  );
}

/** A request that asks for plain bodies: packed ones could not be read. */
export function askPlain(flat: readonly string[]): string[] {
  return flat.map((value, i) => (i % 2 === 1 && flat[i - 1]?.toLowerCase() === 'accept-encoding' ? 'identity' : value));
}

export function withoutLength(flat: readonly string[]): string[] {
  return flat.flatMap((name, i) =>
    i % 2 === 1 || name.toLowerCase() === 'content-length' ? [] : [name, flat[i + 1] ?? ''],
  );
}

function headerValue(flat: readonly string[], wanted: string): string {
  const at = flat.findIndex((name, i) => i % 2 === 0 && name.toLowerCase() === wanted);
  return at < 0 ? '' : (flat[at + 1] ?? '');
}
