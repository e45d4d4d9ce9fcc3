import { UpsetterClient } from '@upsetter/client';

export const DEFAULT_CONTROL = 'http://127.0.0.1:4600';

export interface CommonOptions {
  readonly control?: string;
  readonly json?: boolean;
}

/** A client of the running service: --control, else UPSETTER_URL, else the usual address. */
export function connect(options: CommonOptions): UpsetterClient {
  return new UpsetterClient(options.control ?? process.env['UPSETTER_URL'] ?? DEFAULT_CONTROL);
}
