import { parentPort, workerData } from 'node:worker_threads';
import { openPool, type DatabaseAddress } from '../platform/database/pool.ts';
import type { LibraryClient } from '../changes/news/make-news.ts';
import { RecentNews } from '../changes/news/recent-news.ts';
import { tryRule } from '../changes/noise/try-rule.ts';
import { OpenQuestions, answerOf } from '../platform/threads/thread-questions.ts';
import { chooseFindings, findPage } from '../changes/findings/find-page.ts';
import { evidenceLines, findingLines } from '../changes/findings/finding-lines.ts';
import { RecentSpans } from '../changes/findings/recent-spans.ts';
import type { FromSpans, ToSpans } from '../changes/findings/span-messages.ts';
import { pathsWithNotes } from '../publishing/notes/notes.ts';
import type { SpanQuestion } from '../changes/findings/span-questions.ts';

const linesOfPiece = 2000;

/** A thread that keeps the findings of the spans that were asked for last. */
const port = parentPort;
if (!port) throw new Error('span-thread: not started as a worker thread');
const { address } = workerData as { address: DatabaseAddress };
const pool = openPool(address, 4);
// The server watches over the library's own threads.
const toLibrary = new OpenQuestions(() => undefined);
const library: LibraryClient = {
  get: (name, channelId, build, parameters) =>
    toLibrary.send((id) =>
      port.postMessage({
        type: 'library',
        id,
        name,
        channelId,
        build,
        parameters: parameters as never,
      } satisfies FromSpans),
    ),
};
const spans = new RecentSpans(pool);
const news = new RecentNews({ pool, library }, spans);
const source = { pool, spans, ranks: news.ranks, pathsWithNotes };

port.on('message', (message: ToSpans) => {
  if (message.type === 'library') toLibrary.settle(message.answer);
  else
    void answerOf(message.id, () => answer(message.question)).then((found) =>
      port.postMessage({ type: 'answer', answer: found } satisfies FromSpans),
    );
});

async function answer({ name, parameters }: SpanQuestion): Promise<unknown> {
  switch (name) {
    case 'page':
      return findPage(source, parameters.from, parameters.to, parameters.query);
    case 'paths': {
      const { from, to, query, stretch } = parameters;
      const { findings } = await chooseFindings(source, from, to, query);
      const { offset, limit } = stretch ?? { offset: 0, limit: findings.length };
      return findings.slice(offset, offset + limit).map(({ path }) => path);
    }
    case 'lines':
      return inPieces(
        parameters.withEvidence
          ? await evidenceLines(pool, await spans.view(parameters.from, parameters.to))
          : findingLines(await spans.get(parameters.from, parameters.to)),
      );
    case 'trial':
      return tryRule(pool, await spans.view(parameters.from, parameters.to), parameters.test);
    case 'news':
      return news.get(parameters.from, parameters.to);
    case 'warm':
      return spans.warm();
  }
}

function inPieces(lines: Iterable<string>): string[] {
  const pieces: string[] = [];
  let piece: string[] = [];
  for (const line of lines) {
    if (piece.push(line) < linesOfPiece) continue;
    pieces.push(`${piece.join('\n')}\n`);
    piece = [];
  }
  if (piece.length > 0) pieces.push(`${piece.join('\n')}\n`);
  return pieces;
}
