import { viewPath, type Place, type Span } from './use-span.ts';

/** Where two states stand beside each other; the older one's path only where it is another one. */
export function comparePath(
  place: Pick<Place, 'title' | 'channel'>,
  builds: { from: string; to: string },
  { path, oldPath }: { path: string; oldPath: string | null },
): string {
  const query = new URLSearchParams({ ...builds, path });
  if (oldPath !== null && oldPath !== path) query.set('oldPath', oldPath);
  return `${viewPath(place, 'compare')}?${query}`;
}

/** Labels of a span's builds; of one build alone twice the same. */
export function labelsOf({ from, to }: Span): { from: string; to: string } {
  const newer = to?.label ?? '';
  return { from: from?.label ?? newer, to: newer };
}
