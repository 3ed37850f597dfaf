import type { FolderCounts } from '../../contract/assets.ts';
import { kindSchema } from '../../contract/kinds.ts';
import { plural } from '../../core/figures.ts';

/** How many of which kind, the most first: “31 models, 6 pictures”. */
export function kindsText({ kinds, skeletons }: FolderCounts, most = Infinity): string {
  const counted = kindSchema.options
    .flatMap((kind) => (kinds[kind] ? [{ kind, count: kinds[kind] }] : []))
    .sort((a, b) => b.count - a.count);
  const shown = counted.slice(0, most).map(({ kind, count }) => {
    const noun = kind === 'other' ? `${count.toLocaleString('en')} other` : plural(count, kind);
    return kind === 'model' && skeletons > 0
      ? `${noun} (${skeletons.toLocaleString('en')} with a skeleton)`
      : noun;
  });
  const rest = counted.slice(most).reduce((sum, { count }) => sum + count, 0);
  return [...shown, ...(rest > 0 ? [`${rest.toLocaleString('en')} more`] : [])].join(', ');
}

/** What came and what changed since the build before. */
export function changeText({ fresh, changed }: FolderCounts): string {
  return [
    fresh > 0 ? `${fresh.toLocaleString('en')} new` : '',
    changed > 0 ? `${changed.toLocaleString('en')} changed` : '',
  ]
    .filter((text) => text !== '')
    .join(', ');
}
