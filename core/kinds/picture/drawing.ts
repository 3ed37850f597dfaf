import { XMLParser } from 'fast-xml-parser';

const parser = new XMLParser({
  preserveOrder: true,
  ignoreAttributes: false,
  ignoreDeclaration: true,
  ignorePiTags: true,
  processEntities: false,
  parseTagValue: false,
  parseAttributeValue: false,
});

/**
 * What a drawing of vectors says, whatever its spacing, remarks and order of attributes: its pixels at one size say too little,
 * since what differs at another size is another drawing. Null where it is no XML.
 */
export function decodedDrawing(bytes: Uint8Array): Uint8Array[] | null {
  try {
    const tree: unknown = parser.parse(new TextDecoder().decode(bytes));
    return [new TextEncoder().encode('drawing\n'), new TextEncoder().encode(JSON.stringify(inOrder(tree)))];
  } catch {
    // It is drawn all the same, or not: then its reader says why.
    return null;
  }
}

/** Names of an element's attributes in order; elements keep theirs. */
function inOrder(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(inOrder);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value as Record<string, unknown>)
      .sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
      .map(([key, inner]) => [key, inOrder(inner)]),
  );
}
