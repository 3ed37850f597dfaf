import type { FamilyMember } from '../../../contract/families.ts';
import type { Level } from '../../viewer/model/levels.ts';

/** Levels of detail of a model among the members of its family, the finest first; none where it is the only one. */
export function levelsOf(members: readonly FamilyMember[], path: string): Level[] {
  const own = members.find((member) => member.path === path);
  if (!own || own.ladder === '') return [];
  const levels = members.filter(({ ladder }) => ladder === own.ladder);
  if (levels.length < 2) return [];
  return levels
    .map(({ path: at, level, figures, size, hash, format, hasPreview }) => ({
      path: at,
      level: level ?? 0,
      triangles: figures.triangles ?? null,
      sizeBytes: size,
      preview: hasPreview && hash !== null ? `/api/preview/${hash}?format=${format}` : null,
    }))
    .sort((a, b) => a.level - b.level || (b.triangles ?? 0) - (a.triangles ?? 0));
}
