import { placementTableSchema, type Placement } from '../../../contract/facts.ts';
import { ReadError } from '../reading.ts';

/**
 * Placements of a table of the invented game, in metres whatever the table's units.
 * Centimetres to metres is a scale of 0.01 (common practice, no published source).
 * @throws ReadError that names the first field which does not fit
 */
export function placementsOf(json: unknown): Placement[] {
  const parsed = placementTableSchema.safeParse(json);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw new ReadError(
      `this placement table does not fit: ${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}`,
    );
  }
  const { units, placements } = parsed.data;
  if (units === 'metres') return placements;
  return placements.map((placement) => {
    const [x, y, z] = placement.position;
    return { ...placement, position: [x * 0.01, y * 0.01, z * 0.01] };
  });
}
