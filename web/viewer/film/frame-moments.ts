const most = 24;
/** Frames of a short film lie no closer together. */
const leastSeconds = 0.1;

/** Moments of a film that tell what is in it: the middles of parts of one length. @returns seconds from its beginning */
export function frameMoments(seconds: number): number[] {
  if (!(seconds > 0)) return [0];
  const count = Math.max(1, Math.min(most, Math.floor(seconds / leastSeconds)));
  return Array.from({ length: count }, (_, at) => ((at + 0.5) * seconds) / count);
}

/** As minutes and seconds, with tenths: 1:04.3 */
export function momentText(seconds: number): string {
  const tenths = Math.round(seconds * 10);
  const minutes = Math.floor(tenths / 600);
  const rest = ((tenths % 600) / 10).toFixed(1);
  return `${minutes}:${rest.padStart(4, '0')}`;
}
