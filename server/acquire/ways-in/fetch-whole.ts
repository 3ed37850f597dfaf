import { setTimeout as sleep } from 'node:timers/promises';
import type * as z from 'zod';
import { PlainError, messageOf } from '../../platform/plain-error.ts';

const silenceMs = 30_000;
const waitsMs = [500, 1000, 2000, 4000];
const longestJsonBytes = 512 * 1024 ** 2;

/** An answer that is no success: what is asked for is not there, or not to be had. */
export class AnswerError extends PlainError {
  override readonly name = 'AnswerError';
  readonly status: number;

  constructor(url: string, status: number) {
    super(`${url} answered with ${status}.`);
    this.status = status;
  }
}

/** An address that is not asked, whatever names it: asking again changes nothing. */
export class RefusedAddressError extends PlainError {
  override readonly name = 'RefusedAddressError';
}

export interface Answer {
  status: number;
  /** What it holds. @throws PlainError when half a minute passes without a piece */
  pieces(): AsyncGenerator<Uint8Array>;
}

/** One question, given up when nothing comes for half a minute. @throws AnswerError, PlainError */
export async function request(
  url: string,
  signal: AbortSignal,
  headers: Record<string, string> = {},
): Promise<Answer> {
  const silence = new AbortController();
  const listen = (): NodeJS.Timeout => setTimeout(() => silence.abort(), silenceMs);
  let timer = listen();
  const told = (error: unknown): PlainError => {
    signal.throwIfAborted();
    return silence.signal.aborted
      ? new PlainError(`${url} said nothing for ${silenceMs / 1000} seconds.`)
      : new PlainError(`${url} could not be reached: ${reasonOf(error)}.`);
  };
  let answer: Response;
  try {
    answer = await fetchWithin(url, headers, AbortSignal.any([signal, silence.signal]));
  } catch (error) {
    if (error instanceof PlainError) throw error;
    throw told(error);
  } finally {
    clearTimeout(timer);
  }
  if (!answer.ok) {
    await answer.body?.cancel();
    throw new AnswerError(url, answer.status);
  }
  return {
    status: answer.status,
    async *pieces() {
      try {
        timer = listen();
        for await (const piece of answer.body ?? []) {
          clearTimeout(timer);
          yield piece;
          timer = listen();
        }
      } catch (error) {
        throw told(error);
      } finally {
        clearTimeout(timer);
      }
    },
  };
}

const mostRedirects = 5;

/**
 * Follows redirects within the address's own origin and no further: a depot must not have other servers asked, least of all
 * those that only this machine can reach.
 */
async function fetchWithin(
  url: string,
  headers: Record<string, string>,
  signal: AbortSignal,
): Promise<Response> {
  const { origin } = new URL(url);
  let at = url;
  for (let redirects = 0; redirects <= mostRedirects; redirects++) {
    const answer = await fetch(at, { headers, signal, redirect: 'manual' });
    const location = answer.headers.get('location');
    if (answer.status < 300 || answer.status > 399 || location === null) return answer;
    await answer.body?.cancel();
    const next = URL.parse(location, at);
    if (next?.origin !== origin)
      throw new RefusedAddressError(
        `${url} sends on to ${next?.origin ?? location}: only ${origin} itself is asked.`,
      );
    at = next.href;
  }
  throw new RefusedAddressError(`${url} sends on more than ${mostRedirects} times.`);
}

/** All of an answer. @throws PlainError when it is longer than it may be */
export async function wholeOf(answer: Answer, limitBytes: number): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  let length = 0;
  for await (const piece of answer.pieces()) {
    length += piece.length;
    if (length > limitBytes) throw new PlainError(`More came than the ${limitBytes} bytes expected.`);
    pieces.push(piece);
  }
  return Buffer.concat(pieces);
}

/** A JSON answer through its schema. @throws PlainError that names what does not fit */
export async function requestJson<Schema extends z.ZodType>(
  url: string,
  schema: Schema,
  signal: AbortSignal,
): Promise<z.infer<Schema>> {
  return retrying(signal, async () => {
    const answer = await request(url, signal);
    let value: unknown;
    try {
      value = JSON.parse((await wholeOf(answer, longestJsonBytes)).toString('utf8'));
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error;
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
      if (error instanceof RefusedAddressError) throw error;
    }
    await sleep(waitMs, undefined, { signal });
  }
  return work();
}

function reasonOf(error: unknown): string {
  return error instanceof Error && error.cause instanceof Error ? error.cause.message : messageOf(error);
}

/**
 * The address of something that an answer names, which must lie on the same server.
 * @param reference a relative address
 * @throws PlainError for any other
 */
export function addressBeside(base: URL, reference: string): string {
  const isRelative = !/^([a-z][a-z0-9+.-]*:|\/\/|\\)/i.test(reference.trim());
  const address = isRelative ? URL.parse(reference, base) : null;
  if (address?.origin !== base.origin)
    throw new RefusedAddressError(
      `${base.href} names the address ${reference}, which is not one beside its own.`,
    );
  return address.href;
}

/** An address that others are relative to. */
export function folderUrl(url: string): URL {
  return new URL(url.endsWith('/') ? url : `${url}/`);
}
