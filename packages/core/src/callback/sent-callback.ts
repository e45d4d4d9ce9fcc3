import { z } from 'zod';

/** One try of a callback: what came back, or why nothing did. */
export const callbackTrySchema = z.object({
  /** Milliseconds since 1970. */
  atMs: z.number(),
  tookMs: z.number(),
  status: z.int().nullable(),
  headers: z.array(z.string()),
  body: z.string().nullable(),
  trouble: z.string().nullable(),
});
export type CallbackTry = z.output<typeof callbackTrySchema>;

/** A callback that a call led to, with all its tries. */
export const sentCallbackSchema = z.object({
  to: z.string(),
  method: z.string(),
  headers: z.array(z.string()),
  body: z.string().nullable(),
  /** `waiting`: for its time, or for the next try; `failed`: no try was answered with 2xx; `given up`: the service ended or was removed before. */
  state: z.enum(['waiting', 'arrived', 'failed', 'given up']),
  tries: z.array(callbackTrySchema),
});
export type SentCallback = z.output<typeof sentCallbackSchema>;
