import type { TreeRow } from '../../lists/tree-list.tsx';
import type { PartEntry } from '../engine/model-parts.ts';

/** A line of the tree of parts: a part, or a node that several hang on. */
export interface PartRow extends TreeRow {
  name: string;
  /** Parts of the line: one, or all below it. */
  parts: readonly number[];
  triangles: number;
  /** The part that it is; null of a node. */
  part: PartEntry | null;
}

interface Node {
  name: string;
  key: string;
  nodes: Map<string, Node>;
  parts: PartEntry[];
}

/**
 * Lines of the tree that are shown, in the order of the file. Nodes that hold one thing alone are passed over.
 * @param words lines are left whose names or materials have all of them, with what these hang on
 * @param closed keys of the nodes that are closed; where somebody searches all are open
 */
export function partRows(parts: readonly PartEntry[], words: string, closed: ReadonlySet<string>): PartRow[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const isFound = ({ name, above, material }: PartEntry): boolean => {
    const text = `${above.join(' ')} ${name} ${material}`.toLowerCase();
    return wanted.every((word) => text.includes(word));
  };
  const root: Node = { name: '', key: '', nodes: new Map(), parts: [] };
  for (const part of parts.filter(isFound)) {
    let node = root;
    for (const name of part.above) {
      let next = node.nodes.get(name);
      if (!next)
        node.nodes.set(name, (next = { name, key: `${node.key}/${name}`, nodes: new Map(), parts: [] }));
      node = next;
    }
    node.parts.push(part);
  }
  const rows: PartRow[] = [];
  const add = (node: Node, depth: number): void => {
    for (const inner of node.nodes.values()) {
      const only = inner.nodes.size + inner.parts.length === 1;
      if (only) {
        add(inner, depth);
        continue;
      }
      const below = all(inner);
      const isOpen = wanted.length > 0 || !closed.has(inner.key);
      rows.push({
        ...{ key: inner.key, depth, isOpen, name: inner.name, part: null },
        parts: below.map(({ id }) => id),
        triangles: below.reduce((sum, { triangles }) => sum + triangles, 0),
      });
      if (isOpen) add(inner, depth + 1);
    }
    for (const part of node.parts)
      rows.push({
        ...{ key: `#${part.id}`, depth, isOpen: null, name: part.name, part },
        ...{ parts: [part.id], triangles: part.triangles },
      });
  };
  add(root, 0);
  return rows;
}

function all(node: Node): PartEntry[] {
  return [...[...node.nodes.values()].flatMap(all), ...node.parts];
}
