import { QueryError } from '../../../core/search/query.ts';
import { NotFoundError, PlainError, messageOf } from '../plain-error.ts';

/** An error on its way from one thread to another: classes do not cross over. */
export interface ThreadFault {
  message: string;
  isNotFound: boolean;
  /** Place within a query that does not fit. */
  where: { at: number; length: number } | null;
}

export type ThreadAnswer = { id: number; answer: unknown } | { id: number; fault: ThreadFault };

/** What a thread says to a question: whatever comes of it, an answer. */
export async function answerOf(id: number, make: () => Promise<unknown>): Promise<ThreadAnswer> {
  try {
    return { id, answer: await make() };
  } catch (error) {
    const where = error instanceof QueryError ? { at: error.at, length: error.length } : null;
    return { id, fault: { message: messageOf(error), isNotFound: error instanceof NotFoundError, where } };
  }
}

function errorOf({ message, isNotFound, where }: ThreadFault): Error {
  if (where) return new QueryError(message.replace(/ \(at letter \d+\)$/, ''), where.at, where.length);
  return isNotFound ? new NotFoundError(message) : new PlainError(message);
}

interface Waiting {
  resolve: (answer: never) => void;
  reject: (error: Error) => void;
}

/** Questions to a thread that were not answered yet. */
export class OpenQuestions {
  private readonly waiting = new Map<number, Waiting>();
  private lastId = 0;

  /** @param post sends the question, under the number by which it will be answered */
  ask<Answer>(post: (id: number) => void): Promise<Answer> {
    const id = ++this.lastId;
    return new Promise<Answer>((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      post(id);
    });
  }

  settle(message: ThreadAnswer): void {
    const waiting = this.waiting.get(message.id);
    this.waiting.delete(message.id);
    if ('answer' in message) waiting?.resolve(message.answer as never);
    else waiting?.reject(errorOf(message.fault));
  }

  /** Nobody will answer any more. */
  loseAll(reason: string): void {
    for (const { reject } of this.waiting.values()) reject(new PlainError(reason));
    this.waiting.clear();
  }
}
