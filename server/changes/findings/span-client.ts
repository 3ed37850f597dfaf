import type { Worker } from 'node:worker_threads';
import type { DatabaseAddress } from '../../platform/database/pool.ts';
import type { LibraryClient } from '../news/make-news.ts';
import { startThread, stopListening } from '../../platform/threads/start-thread.ts';
import { OpenQuestions, answerOf } from '../../platform/threads/thread-questions.ts';
import type { SpanQuestions } from './span-questions.ts';
import type { FromSpans, ToSpans } from './span-messages.ts';

/**
 * Answers whatever is asked about spans in a thread of its own: on the day of an update in which all files changed, going
 * through its findings would hold up everybody else.
 */
export class SpanClient {
  private readonly address: DatabaseAddress;
  private readonly library: LibraryClient;
  private readonly questions = new OpenQuestions(() => void this.close());
  private thread: Worker | null = null;

  constructor(address: DatabaseAddress, library: LibraryClient) {
    this.address = address;
    this.library = library;
  }

  get<Name extends keyof SpanQuestions>(
    name: Name,
    parameters: SpanQuestions[Name]['parameters'],
  ): Promise<SpanQuestions[Name]['answer']> {
    const thread = (this.thread ??= this.start());
    return this.questions.send((id) =>
      thread.postMessage({ type: 'question', id, question: { name, parameters } }),
    );
  }

  async close(): Promise<void> {
    const { thread } = this;
    this.thread = null;
    if (!thread) return;
    // Whoever still waits has gone.
    stopListening(thread);
    await thread.terminate();
  }

  private start(): Worker {
    const thread = startThread('span-thread', { workerData: { address: this.address } });
    thread.on('message', (message: FromSpans) => {
      if (message.type === 'answer') this.questions.settle(message.answer);
      // News ask the library, which lives here.
      else
        void answerOf(message.id, () =>
          this.library.get(message.name, message.channelId, message.build, message.parameters),
        ).then((answer) => thread.postMessage({ type: 'library', answer } satisfies ToSpans));
    });
    const lose = (reason: string): void => {
      if (this.thread === thread) this.thread = null;
      this.questions.loseAll(`The findings could not be made: ${reason}.`);
    };
    thread.on('error', (error) => lose(error.message));
    thread.on('exit', () => lose('their thread ended'));
    return thread;
  }
}
