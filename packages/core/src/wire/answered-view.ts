import { z } from 'zod';

/** What a call is to be answered with from now on: YAML as it stands in a service file; left out: as it was answered. */
export const answerRequestSchema = z.object({ answer: z.string().optional() });

/** Where the case is that answers such calls now. */
export const answeredSchema = z.object({
  service: z.string(),
  operation: z.string(),
  case: z.string(),
  revision: z.int(),
});
export type AnsweredView = z.output<typeof answeredSchema>;
