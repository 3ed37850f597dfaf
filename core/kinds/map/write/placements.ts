import papa from 'papaparse';
import type { Placement, PlacementTable } from '../../../../contract/facts.ts';

const columns = [
  ...['id', 'model', 'class', 'name', 'locator', 'x', 'y', 'z', 'qx', 'qy', 'qz', 'qw', 'sx', 'sy', 'sz'],
] as const;

/** Placements as JSON: metres, Y up, rotations as unit quaternions xyzw. */
export function placementsAsJson(placements: readonly Placement[]): Uint8Array {
  const table: PlacementTable = { units: 'metres', placements: [...placements] };
  return new TextEncoder().encode(`${JSON.stringify(table, null, 1)}\n`);
}

/** Placements as CSV (RFC 4180), a line to each: metres, Y up, rotations as unit quaternions. */
export function placementsAsCsv(placements: readonly Placement[]): Uint8Array {
  const rows = placements.map(({ id, model, class: group, name, locator, position, rotation, scale }) => [
    ...[id, model, group, name, locator, ...position, ...rotation, ...scale],
  ]);
  return new TextEncoder().encode(`${papa.unparse([[...columns], ...rows], { newline: '\r\n' })}\r\n`);
}

/** What such a CSV says. */
export function placementsOfCsv(text: string): Placement[] {
  const { data } = papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: true });
  const of = (row: Record<string, string>, names: readonly string[]): number[] =>
    names.map((name) => Number(row[name]));
  return data.map((row) => ({
    id: row.id ?? '',
    model: row.model ?? '',
    class: row.class ?? '',
    name: row.name ?? '',
    locator: row.locator ?? '',
    position: of(row, ['x', 'y', 'z']) as Placement['position'],
    rotation: of(row, ['qx', 'qy', 'qz', 'qw']) as Placement['rotation'],
    scale: of(row, ['sx', 'sy', 'sz']) as Placement['scale'],
  }));
}
