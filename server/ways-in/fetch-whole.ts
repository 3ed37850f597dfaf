import { setTimeout as sleep } from 'node:timers/promises';
import type { z } from 'zod';
import { PlainError, messageOf } from '../plain-error.ts';

const silenceMs = 30_000;
const waitsMs = [500, 1000, 2000, 4000];

/** An answer that is no success: what is asked for is not there, or not to be had. */
export class AnswerError extends PlainError {
  override readonly name = 'AnswerError';
  readonly status: number;

  constructor(url: string, status: number) {
    super(`${url} answered with ${status}.`);
    this.status = status;
  }
}

/** One question, given up when nothing comes for half a minute. @throws AnswerError, PlainError */
export async function ask(
  url: string,
  signal: AbortSignal,
  headers: Record<string, string> = {},
): Promise<Response> {
  const timeout = AbortSignal.timeout(silenceMs);
  let answer: Response;
  try {
    answer = await fetch(url, { headers, signal: AbortSignal.any([signal, timeout]) });
  } catch (error) {
    signal.throwIfAborted();
    throw new PlainError(`${url} could not be reached: ${reasonOf(error)}.`);
  }
  if (!answer.ok) {
    await answer.body?.cancel();
    throw new AnswerError(url, answer.status);
  }
  return answer;
}

/** A JSON answer through its schema. @throws PlainError that names what does not fit */
export async function askJson<Schema extends z.ZodType>(
  url: string,
  schema: Schema,
  signal: AbortSignal,
): Promise<z.infer<Schema>> {
  return retrying(signal, async () => {
    const answer = await ask(url, signal);
    let value: unknown;
    try {
      value = await answer.json();
    } catch {
      throw new PlainError(`${url} did not answer in JSON.`);
    }
    const parsed = schema.safeParse(value);
    if (parsed.success) return parsed.data;
    const issue = parsed.error.issues[0];
    throw new PlainError(
      `What ${url} says does not fit: ${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}.`,
    );
  });
}

/** Tries again with growing waits; not where the answer is that there is nothing. */
export async function retrying<T>(signal: AbortSignal, work: () => Promise<T>): Promise<T> {
  for (const waitMs of waitsMs) {
    try {
      return await work();
    } catch (error) {
      signal.throwIfAborted();
      if (error instanceof AnswerError && error.status < 500) throw error;
    }
    await sleep(waitMs, undefined, { signal });
  }
  return work();
}

function reasonOf(error: unknown): string {
  return error instanceof Error && error.cause instanceof Error ? error.cause.message : messageOf(error);
}

/** An address that others are relative to. */
export function folderUrl(url: string): URL {
  return new URL(url.endsWith('/') ? url : `${url}/`);
}
