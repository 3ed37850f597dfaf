import { parentPort, workerData } from 'node:worker_threads';
import { openPool, type DatabaseAddress } from '../platform/database/pool.ts';
import type { AskedLibrary } from '../changes/news/make-news.ts';
import { RecentNews } from '../changes/news/recent-news.ts';
import { tryRule } from '../changes/noise/try-rule.ts';
import { OpenQuestions, answerOf } from '../platform/threads/thread-questions.ts';
import { chooseFindings, findPage } from '../changes/findings/find-page.ts';
import { evidenceLines, findingLines } from '../changes/findings/finding-lines.ts';
import { RecentSpans } from '../changes/findings/recent-spans.ts';
import type { FromSpans, ToSpans } from '../changes/findings/span-messages.ts';
import { pathsWithNotes } from '../publishing/notes.ts';
import type { SpanQuestion } from '../changes/findings/span-questions.ts';

const linesOfPiece = 2000;

/** A thread that keeps the findings of the spans that were asked for last. */
const port = parentPort;
if (!port) throw new Error('span-thread: not started as a worker thread');
const { address } = workerData as { address: DatabaseAddress };
const pool = openPool(address, 4);
// The server watches over the library's own threads.
const toLibrary = new OpenQuestions(() => undefined);
const library: AskedLibrary = {
  ask: (name, channelId, build, ask) =>
    toLibrary.ask((id) =>
      port.postMessage({
        type: 'library',
        id,
        name,
        channelId,
        build,
        ask: ask as never,
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

async function answer({ name, ask }: SpanQuestion): Promise<unknown> {
  switch (name) {
    case 'page':
      return findPage(source, ask.from, ask.to, ask.query);
    case 'paths':
      return (await chooseFindings(source, ask.from, ask.to, ask.query)).findings.map(({ path }) => path);
    case 'lines':
      return inPieces(
        ask.withEvidence
          ? await evidenceLines(pool, await spans.view(ask.from, ask.to))
          : findingLines(await spans.of(ask.from, ask.to)),
      );
    case 'trial':
      return tryRule(pool, await spans.view(ask.from, ask.to), ask.test);
    case 'news':
      return news.of(ask.from, ask.to);
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
