import type { Http2ServerResponse } from 'node:http2';
import type { CompiledBreak } from '@upsetter/core';
import type { Call } from '../call/call.js';

// RFC 9113, 7: what the caller of HTTP/2 is told of its stream.
const NO_ERROR = 0;
const INTERNAL_ERROR = 2;

/** Breaks a call in the place of its answer. Silence holds the connection until the caller leaves. */
export function breakOff({ outgoing }: Call, { as }: CompiledBreak): void {
  if (as === 'silence') return;
  if ('stream' in outgoing) {
    const { stream } = outgoing as unknown as Http2ServerResponse;
    stream.close(as === 'reset' ? INTERNAL_ERROR : NO_ERROR);
    return;
  }
  const { socket } = outgoing;
  if (as === 'reset' && socket !== null && 'resetAndDestroy' in socket && !('encrypted' in socket))
    socket.resetAndDestroy();
  else socket?.destroy();
}
