import * as z from 'zod';

/** The body of every answer that is not a success: one sentence that a person can act on. */
export const failureSchema = z.object({ error: z.string() });
