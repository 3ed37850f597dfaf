import type { ReachedAsset, References } from '../../../contract/references.ts';

export interface GraphNode {
  id: string;
  label: string;
  sort: 'here' | 'asset' | 'missing' | 'more';
  x: number;
  y: number;
}

export interface GraphEdge {
  id: string;
  from: string;
  to: string;
  isGuess: boolean;
}

const columnPixels = 270;
const rowPixels = 46;
/** A column of more says how many more there are. */
const mostInColumn = 30;

/**
 * Places what an asset needs to its right and what needs it to its left, a column to each step.
 * @returns nodes by path, and edges that point from who needs to what is needed
 */
export function layOut(
  path: string,
  { needs, neededBy, missing }: References,
): { nodes: GraphNode[]; edges: GraphEdge[] } {
  const nodes = new Map<string, GraphNode>([
    [path, { id: path, label: nameOf(path), sort: 'here', x: 0, y: 0 }],
  ]);
  const edges: GraphEdge[] = [];
  const place = (reached: readonly ReachedAsset[], sign: 1 | -1): void => {
    const columns = new Map<number, ReachedAsset[]>();
    for (const asset of reached) {
      const column = columns.get(asset.depth);
      if (column) column.push(asset);
      else columns.set(asset.depth, [asset]);
    }
    for (const [depth, column] of columns) {
      const shown = column.slice(0, mostInColumn);
      const height = shown.length + (column.length > mostInColumn ? 1 : 0);
      shown.forEach(({ path: id, via, rule }, at) => {
        if (!nodes.has(id))
          nodes.set(id, {
            id,
            label: nameOf(id),
            sort: 'asset',
            x: sign * depth * columnPixels,
            y: (at - (height - 1) / 2) * rowPixels,
          });
        if (!nodes.has(via)) return;
        const [from, to] = sign > 0 ? [via, id] : [id, via];
        edges.push({ id: `${from}\n${to}`, from, to, isGuess: rule === 'name' });
      });
      if (column.length > mostInColumn)
        nodes.set(`more ${sign * depth}`, {
          id: `more ${sign * depth}`,
          label: `${column.length - mostInColumn} more`,
          sort: 'more',
          x: sign * depth * columnPixels,
          y: ((height - 1) / 2) * rowPixels,
        });
    }
  };
  place(needs, 1);
  place(neededBy, -1);
  const below =
    Math.max(0, ...[...nodes.values()].filter(({ x }) => x === columnPixels).map(({ y }) => y)) + rowPixels;
  missing.forEach(({ text }, at) => {
    const id = `missing ${text}`;
    nodes.set(id, {
      id,
      label: nameOf(text),
      sort: 'missing',
      x: columnPixels,
      y: (needs.length === 0 ? 0 : below) + at * rowPixels,
    });
    edges.push({ id: `${path}\n${id}`, from: path, to: id, isGuess: false });
  });
  return { nodes: [...nodes.values()], edges };
}

function nameOf(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}
