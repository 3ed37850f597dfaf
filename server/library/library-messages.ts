import type { Question } from './questions.ts';
import type { ChannelBuilds } from './search/channel-tables.ts';
import type { SearchTables } from './search/search-tables.ts';

/** What the thread is told. Tables come once, in memory that is shared; questions name the ones that they are about. */
export type ToLibrary =
  | { type: 'tables'; channelId: number; key: string; tables: SearchTables }
  | {
      type: 'question';
      id: number;
      channelId: number;
      key: string;
      builds: ChannelBuilds;
      sequence: number;
      question: Question;
    };
