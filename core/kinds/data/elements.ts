/**
 * An element as data: attributes under `@name`, children in lists under the names of their elements, text under `#`. One
 * that has but text is that text. Names are those of their namespaces, whatever prefix stands for these.
 */
export type XmlData = string | { [name: string]: string | ElementList };

/** The order in which children of several names stand, where there are any; no name of an element or attribute. */
export const elementOrder = ' order';

/** Stands between a name and its namespace; in no name and no address. */
export const spaceMark = ' in ';

/** A name without its namespace. */
export function bareName(name: string): string {
  const at = name.indexOf(spaceMark);
  return at < 0 ? name : name.slice(0, at);
}

/** Elements of one name, in their order. */
export class ElementList extends Array<XmlData> {}
