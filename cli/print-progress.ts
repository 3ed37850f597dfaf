import type { Progress } from '../contract/work.ts';
import { bytesText } from '../core/figures.ts';

/** One line that is written over again and again, where somebody looks at it. */
export function printProgress({
  phase,
  files,
  totalFiles,
  bytes,
  totalBytes,
  bytesPerSecond,
  secondsLeft,
}: Progress): void {
  if (!process.stderr.isTTY) return;
  const of = (total: string | null): string => (total === null ? '' : ` of ${total}`);
  const size =
    bytes > 0 ? `, ${bytesText(bytes)}${of(totalBytes === null ? null : bytesText(totalBytes))}` : '';
  const speed = bytesPerSecond > 0 ? `, ${bytesText(bytesPerSecond)} a second` : '';
  const left = secondsLeft === null ? '' : `, ${Math.ceil(secondsLeft)} s left`;
  process.stderr.write(
    `\r\u001b[K${phase}: ${files}${of(totalFiles?.toString() ?? null)} files${size}${speed}${left}`,
  );
}
