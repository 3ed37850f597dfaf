import type { Placement } from '../../../../contract/facts.ts';
import { ReadError, type ReadRequest } from '../../reading.ts';
import type { Proof, Written } from '../../writing.ts';
import { placementsOf } from '../placements.ts';
import { openPlacements } from '../read.ts';
import { placementsAsCsv, placementsAsJson, placementsOfCsv } from './placements.ts';

/** Placements of a map as JSON or CSV. @throws ReadError for a map of tiles */
export async function writePlacements(
  request: ReadRequest,
  format: string,
  as: 'json' | 'csv',
): Promise<Written> {
  if (format === 'tmx' || format === 'tileset')
    throw new ReadError('a map of tiles has no placements: it can be taken out as it lay');
  const placements = await openPlacements(request);
  const bytes = as === 'json' ? placementsAsJson(placements) : placementsAsCsv(placements);
  const text = new TextDecoder().decode(bytes);
  const read = as === 'json' ? placementsOf(JSON.parse(text)) : placementsOfCsv(text);
  return { files: [{ ending: `.${as}`, bytes }], losses: [], notes: [], proof: proofOf(placements, read) };
}

function proofOf(placements: readonly Placement[], read: readonly Placement[]): Proof {
  const differing = placements.filter(
    (placement, at) => JSON.stringify(ordered(placement)) !== JSON.stringify(ordered(read[at])),
  );
  if (differing.length === 0 && read.length === placements.length)
    return { verdict: 'the same', sentence: '' };
  return {
    verdict: 'differs',
    sentence: `${differing.length} of ${placements.length} placements differ, ${read.length} were read again.`,
  };
}

function ordered(placement: Placement | undefined): unknown[] {
  if (!placement) return [];
  const { id, model, class: group, name, locator, position, rotation, scale } = placement;
  return [id, model, group, name, locator, position, rotation, scale];
}
