/**
 * An element as data: attributes under `@name`, children in lists under the names of their elements, and text. One
 * that has but text is that text. Names are those of their namespaces, whatever prefix stands for these.
 */
export type XmlData = string | { [name: string]: string | ElementList };

/** What stands in no key of any text: XML 1.0 has no control characters, and JSON writes them otherwise than anybody names. */
const mark = '\u0001';

/** The order in which children of several names stand, where there are any. */
export const elementOrder = `${mark}order`;

/** The text of an element that holds others, or attributes. */
export const elementText = `${mark}text`;

/** Stands between a name and its namespace. */
export const spaceMark = `${mark}in${mark}`;

/** A name without its namespace. */
export function bareName(name: string): string {
  const at = name.indexOf(spaceMark);
  return at < 0 ? name : name.slice(0, at);
}

/** Elements of one name, in their order. */
export class ElementList extends Array<XmlData> {}
