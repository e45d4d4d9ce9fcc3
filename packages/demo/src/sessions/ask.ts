/** One answer as a session reads it. */
export interface Answered {
  readonly status: number;
  readonly json: never;
  readonly headers: Headers;
}

export interface Asked {
  readonly json?: unknown;
  readonly form?: Readonly<Record<string, string>>;
  readonly headers?: Readonly<Record<string, string>>;
}

/** Sends one call of a session: `ask('POST', '/bookings', { json })`. */
export type Ask = (method: string, path: string, asked?: Asked) => Promise<Answered>;

export function createAsk(address: string): Ask {
  return async (method, path, asked = {}) => {
    const body = asked.json !== undefined ? JSON.stringify(asked.json) : asked.form && new URLSearchParams(asked.form);
    const response = await fetch(address + path, {
      method,
      headers: { ...(asked.json === undefined ? {} : { 'content-type': 'application/json' }), ...asked.headers },
      ...(body === undefined ? {} : { body }),
      redirect: 'manual',
    });
    const text = await response.text();
    return { status: response.status, json: parse(text) as never, headers: response.headers };
  };
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}

/** Fails the session when an answer is not what the application expects. */
export function expectThat(holds: boolean, what: string): asserts holds {
  if (!holds) throw new Error(`the session expected ${what}`);
}
