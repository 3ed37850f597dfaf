import type { Context } from 'hono';
import type * as z from 'zod';
import { NotFoundError, PlainError } from '../plain-error.ts';

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

/** A whole number in an address, such as a build's. @throws NotFoundError where it is none */
export function readNumber(context: Context, name: string): number {
  const text = context.req.param(name) ?? '';
  const number = Number(text);
  if (!/^\d{1,15}$/.test(text)) throw new NotFoundError(`There is nothing at ${context.req.path}.`);
  return number;
}

/**
 * What follows a prefix of an address, as a path. @throws PlainError where it is no valid address
 * @param prefixParts how many parts of the address stand before it
 */
export function readRestOfPath(context: Context, prefixParts: number): string {
  const rest = new URL(context.req.url).pathname
    .split('/')
    .slice(prefixParts + 1)
    .join('/');
  try {
    return decodeURIComponent(rest);
  } catch {
    throw new PlainError('This address is not valid: a % in it begins no character.');
  }
}

function parse<Schema extends z.ZodType>(schema: Schema, value: unknown): z.infer<Schema> {
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw new PlainError(`${issue?.path.join('.') ?? 'request'}: ${issue?.message ?? 'does not fit'}.`);
}
