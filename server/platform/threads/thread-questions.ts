import { ZodError } from 'zod';
import { QueryError } from '../../../core/search/query.ts';
import { ConflictError, NotFoundError, PlainError, messageOf } from '../plain-error.ts';

/** An error on its way from one thread to another: classes do not cross over. */
export type ThreadFault =
  | { type: 'plain' | 'not found' | 'conflict'; message: string }
  /** Place within a query that does not fit. */
  | { type: 'query'; message: string; at: number; length: number }
  /** A fault of the program's own. */
  | { type: 'unexpected'; message: string; stack: string };

export type ThreadAnswer = { id: number; answer: unknown } | { id: number; fault: ThreadFault };

/** What a thread says to a question: whatever comes of it, an answer. */
export async function answerOf(id: number, make: () => Promise<unknown>): Promise<ThreadAnswer> {
  try {
    return { id, answer: await make() };
  } catch (error) {
    return { id, fault: faultOf(error) };
  }
}

function faultOf(error: unknown): ThreadFault {
  const message = messageOf(error);
  if (error instanceof QueryError) return { type: 'query', message, at: error.at, length: error.length };
  if (error instanceof NotFoundError) return { type: 'not found', message };
  if (error instanceof ConflictError) return { type: 'conflict', message };
  if (error instanceof PlainError || error instanceof ZodError) return { type: 'plain', message };
  return { type: 'unexpected', message, stack: (error instanceof Error && error.stack) || message };
}

function errorOf(fault: ThreadFault): Error {
  switch (fault.type) {
    case 'query':
      return new QueryError(fault.message.replace(/ \(at letter \d+\)$/, ''), fault.at, fault.length);
    case 'not found':
      return new NotFoundError(fault.message);
    case 'conflict':
      return new ConflictError(fault.message);
    case 'plain':
      return new PlainError(fault.message);
    case 'unexpected':
      return Object.assign(new Error(fault.message), { stack: fault.stack });
  }
}

interface Waiting {
  resolve: (answer: never) => void;
  reject: (error: Error) => void;
  timer: NodeJS.Timeout;
}

/** How long a thread may be silent about a question, those before it in its queue counted in. */
const limitMs = 180_000;

/** Questions to a thread that were not answered yet. */
export class OpenQuestions {
  private readonly waiting = new Map<number, Waiting>();
  private readonly onStuck: () => void;
  private readonly limitMs: number;
  private lastId = 0;

  /** @param onStuck called when a question was not answered in time: the thread is to be ended, so that others are heard */
  constructor(onStuck: () => void, limit = limitMs) {
    this.onStuck = onStuck;
    this.limitMs = limit;
  }

  /** @param post sends the question, under the number by which it will be answered */
  send<Answer>(post: (id: number) => void): Promise<Answer> {
    const id = ++this.lastId;
    return new Promise<Answer>((resolve, reject) => {
      const timer = setTimeout(() => {
        this.loseAll(`no answer came within ${this.limitMs / 1000} seconds`);
        this.onStuck();
      }, this.limitMs);
      timer.unref();
      this.waiting.set(id, { resolve, reject, timer });
      post(id);
    });
  }

  settle(message: ThreadAnswer): void {
    const waiting = this.waiting.get(message.id);
    if (!waiting) return;
    this.waiting.delete(message.id);
    clearTimeout(waiting.timer);
    if ('answer' in message) waiting.resolve(message.answer as never);
    else waiting.reject(errorOf(message.fault));
  }

  /** Nobody will answer any more. */
  loseAll(reason: string): void {
    for (const { reject, timer } of this.waiting.values()) {
      clearTimeout(timer);
      reject(new Error(reason));
    }
    this.waiting.clear();
  }
}
