import type { LayoutOptions } from 'cytoscape';
import type { DagreLayoutOptions } from 'cytoscape-dagre';
import type { ReachedAsset, References } from '../../../contract/references.ts';
import { nameOf } from '../../ui/path-text.tsx';

export interface GraphNode {
  id: string;
  label: string;
  role: 'here' | 'asset' | 'missing' | 'more';
}

export interface GraphEdge {
  id: string;
  from: string;
  to: string;
  isGuess: boolean;
}

/** Of more assets at one distance it is said how many more there are. */
const mostAtDepth = 30;

/** From left to right: who needs it, the asset, what it needs. */
export const graphLayout: LayoutOptions & DagreLayoutOptions = {
  name: 'dagre',
  rankDir: 'LR',
  nodeSep: 16,
  rankSep: 60,
  padding: 30,
  animate: false,
};

/** @returns nodes by path, and edges that point from who needs to what is needed */
export function graphParts(
  path: string,
  { needs, neededBy, missing }: References,
): { nodes: GraphNode[]; edges: GraphEdge[] } {
  const nodes = new Map<string, GraphNode>([[path, { id: path, label: nameOf(path), role: 'here' }]]);
  const edges: GraphEdge[] = [];
  const addEdge = (via: string, id: string, isNeeded: boolean, isGuess: boolean): void => {
    if (!nodes.has(via)) return;
    const [from, to] = isNeeded ? [via, id] : [id, via];
    edges.push({ id: `${from}\n${to}`, from, to, isGuess });
  };
  const add = (reached: readonly ReachedAsset[], isNeeded: boolean): void => {
    for (const depth of new Set(reached.map((asset) => asset.depth))) {
      const assets = reached.filter((asset) => asset.depth === depth);
      for (const { path: id, via, rule } of assets.slice(0, mostAtDepth)) {
        if (!nodes.has(id)) nodes.set(id, { id, label: nameOf(id), role: 'asset' });
        addEdge(via, id, isNeeded, rule === 'name');
      }
      const hidden = assets.slice(mostAtDepth);
      if (hidden[0]) {
        const id = `more ${isNeeded ? depth : -depth}`;
        nodes.set(id, { id, label: `${hidden.length} more`, role: 'more' });
        addEdge(hidden[0].via, id, isNeeded, false);
      }
    }
  };
  add(needs, true);
  add(neededBy, false);
  for (const { text } of missing) {
    const id = `missing ${text}`;
    nodes.set(id, { id, label: nameOf(text), role: 'missing' });
    addEdge(path, id, true, false);
  }
  return { nodes: [...nodes.values()], edges };
}
