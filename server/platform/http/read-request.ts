import type { Context } from 'hono';
import type { z } from 'zod';
import { PlainError } from '../plain-error.ts';

/** The query, through its schema. @throws PlainError that names the field which does not fit */
export function readQuery<Schema extends z.ZodType>(context: Context, schema: Schema): z.infer<Schema> {
  return parse(schema, context.req.query());
}

/** The JSON body, through its schema. @throws PlainError that names the field which does not fit */
export async function readBody<Schema extends z.ZodType>(
  context: Context,
  schema: Schema,
): Promise<z.infer<Schema>> {
  let body: unknown;
  try {
    body = await context.req.json();
  } catch {
    throw new PlainError('The request’s body is not valid JSON.');
  }
  return parse(schema, body);
}

function parse<Schema extends z.ZodType>(schema: Schema, value: unknown): z.infer<Schema> {
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw new PlainError(`${issue?.path.join('.') ?? 'request'}: ${issue?.message ?? 'does not fit'}.`);
}
