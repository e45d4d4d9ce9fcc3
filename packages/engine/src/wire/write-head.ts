import type { ServerResponse } from 'node:http';
import { toHttp2Headers } from '../listener/http2-call.js';

/** Status and flat headers of an answer, in either version of HTTP. `reason`: a phrase of its own, which HTTP/1.1 can say. */
export function writeHead(outgoing: ServerResponse, status: number, headers: readonly string[], reason?: string): void {
  // HTTP/2 has streams; its response has one from the start.
  if ('stream' in outgoing) outgoing.writeHead(status, toHttp2Headers(headers));
  else if (reason === undefined) outgoing.writeHead(status, headers as string[]);
  else outgoing.writeHead(status, reason, headers as string[]);
}
