import { Presets, SingleBar } from 'cli-progress';
import type { Progress } from '../contract/work.ts';
import { bytesText } from '../core/figures.ts';

const lineMs = 5000;

let bar: SingleBar | null = null;
let lastLine = { phase: '', ms: 0 };

/** A bar where somebody looks at it; elsewhere (a log, a pipe) a plain line for each phase, and every five seconds. */
export function showProgress(progress: Progress): void {
  if (process.stderr.isTTY) drawBar(progress);
  else printLine(progress);
}

/** Takes the bar away: what follows is written where it was. */
export function clearProgress(): void {
  bar?.stop();
  bar = null;
}

/** For programs: each state as a line of JSON. */
export function printProgressJson(progress: Progress): void {
  process.stderr.write(`${JSON.stringify(progress)}\n`);
}

/** How far it is, in words. */
export function progressText({
  phase,
  files,
  totalFiles,
  bytes,
  totalBytes,
  bytesPerSecond,
  secondsLeft,
}: Progress): string {
  const outOf = (total: string | null): string => (total === null ? '' : ` of ${total}`);
  const size =
    bytes > 0 ? `, ${bytesText(bytes)}${outOf(totalBytes === null ? null : bytesText(totalBytes))}` : '';
  const speed = bytesPerSecond > 0 ? `, ${bytesText(bytesPerSecond)} a second` : '';
  const left = secondsLeft === null ? '' : `, ${Math.ceil(secondsLeft)} s left`;
  return `${phase}: ${files}${outOf(totalFiles?.toString() ?? null)} files${size}${speed}${left}`;
}

/** How much of it is done, from 0 to 1; 0 as long as nobody knows how much there is. */
export function progressShare({ files, totalFiles, bytes, totalBytes }: Progress): number {
  if (totalBytes !== null && totalBytes > 0) return Math.min(1, bytes / totalBytes);
  if (totalFiles !== null && totalFiles > 0) return Math.min(1, files / totalFiles);
  return 0;
}

function drawBar(progress: Progress): void {
  if (!bar) {
    bar = new SingleBar(
      { format: '{bar} {percentage}% {text}', clearOnComplete: true, barsize: 24, hideCursor: true },
      Presets.legacy,
    );
    bar.start(1000, 0, { text: '' });
  }
  bar.update(Math.round(progressShare(progress) * 1000), { text: progressText(progress) });
}

function printLine(progress: Progress): void {
  const ms = Date.now();
  if (progress.phase === lastLine.phase && ms - lastLine.ms < lineMs) return;
  lastLine = { phase: progress.phase, ms };
  process.stderr.write(`${progressText(progress)}\n`);
}
