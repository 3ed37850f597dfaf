import type { Questions } from '../../library/questions.ts';
import type { ThreadAnswer } from '../../platform/threads/thread-questions.ts';
import type { SpanQuestion } from './span-questions.ts';

export type ToSpans =
  { type: 'question'; id: number; question: SpanQuestion } | { type: 'library'; answer: ThreadAnswer };

export type FromSpans =
  | { type: 'answer'; answer: ThreadAnswer }
  | {
      type: 'library';
      id: number;
      name: keyof Questions;
      channelId: number;
      build: string;
      parameters: never;
    };
