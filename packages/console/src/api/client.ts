import { UpsetterClient } from '@upsetter/client';

/** The control API of the service that served this page. */
export const client = new UpsetterClient('');
