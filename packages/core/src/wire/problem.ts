import { z } from 'zod';

export const fileProblemSchema = z.object({
  message: z.string(),
  path: z.string(),
  line: z.int(),
  column: z.int(),
  expected: z.string().optional(),
  nearest: z.string().optional(),
});

/** Problem Details (RFC 9457) of the control API: `code` is stable, `problems` are the mistakes of a file. */
export const problemSchema = z.looseObject({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  code: z.string(),
  detail: z.string(),
  next: z.string(),
  problems: z.array(fileProblemSchema).optional(),
});
export type Problem = z.output<typeof problemSchema>;
