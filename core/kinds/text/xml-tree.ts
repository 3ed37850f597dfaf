import { ElementList, elementOrder, elementText, spaceMark, type XmlData } from '../data/elements.ts';
import { parsedXml } from './xml-parser.ts';

type Node = Record<string, unknown>;
type Scope = ReadonlyMap<string, string>;

const attributesKey = ':@';
const textKey = '#text';
const cdataKey = '#cdata';

/** @throws ReadError that says where it breaks */
export async function xmlTree(text: string): Promise<XmlData> {
  const parsed = await parsedXml(text, {
    preserveOrder: true,
    attributeNamePrefix: '',
    trimValues: false,
    cdataPropName: cdataKey,
  });
  const nodes = (parsed as Node[]).filter((node) => !nameOf(node).startsWith('?'));
  return contentOf(nodes, {}, new Map());
}

function nameOf(node: Node): string {
  return Object.keys(node).find((key) => key !== attributesKey) ?? '';
}

function attributesOf(node: Node): Record<string, string> {
  return (node[attributesKey] ?? {}) as Record<string, string>;
}

/** Prefixes that hold in an element: those around it, and its own. */
function scopeOf(attributes: Record<string, string>, outer: Scope): Scope {
  const own = Object.entries(attributes).filter(([name]) => isDeclaration(name));
  return own.length === 0
    ? outer
    : new Map([...outer, ...own.map(([name, space]): [string, string] => [name.slice(6), space])]);
}

function isDeclaration(name: string): boolean {
  return name === 'xmlns' || name.startsWith('xmlns:');
}

function contentOf(nodes: readonly Node[], attributes: Record<string, string>, scope: Scope): XmlData {
  const data: Record<string, string | ElementList> = {};
  for (const [name, value] of Object.entries(attributes))
    if (!isDeclaration(name)) data[`@${qualified(name, scope, false)}`] = decoded(value);
  let words = '';
  const order: string[] = [];
  for (const node of nodes) {
    const tag = nameOf(node);
    if (tag === textKey) words += decoded(textOf(node[textKey]));
    else if (tag === cdataKey)
      words += (node[cdataKey] as Node[]).map((inner) => textOf(inner[textKey])).join('');
    else {
      const own = attributesOf(node);
      const inner = scopeOf(own, scope);
      const name = qualified(tag, inner, true);
      const content = contentOf(node[tag] as Node[], own, inner);
      order.push(name);
      const list = data[name];
      if (list instanceof ElementList) list.push(content);
      else data[name] = ElementList.of(content);
    }
  }
  // Spaces and ends of lines around elements are there for the eye.
  const told = order.length > 0 || /[\n\r]/.test(words) ? words.trim() : words;
  if (Object.keys(data).length === 0) return told;
  if (told !== '') data[elementText] = told;
  if (new Set(order).size > 1) data[elementOrder] = order.join('\n');
  return data;
}

function textOf(value: unknown): string {
  return typeof value === 'string' ? value : typeof value === 'number' ? String(value) : '';
}

/** The name in its namespace, so that another prefix for that is the same. */
function qualified(name: string, scope: Scope, isElement: boolean): string {
  const at = name.indexOf(':');
  const [prefix, local] = at < 0 ? ['', name] : [name.slice(0, at), name.slice(at + 1)];
  // An attribute without a prefix is in no namespace (Namespaces in XML 1.0, section 6.2).
  const space = prefix === '' && !isElement ? undefined : scope.get(prefix);
  return space === undefined ? name : `${local}${spaceMark}${space}`;
}

const entities: Readonly<Record<string, string>> = { lt: '<', gt: '>', amp: '&', quot: '"', apos: "'" };

/** The five entities that every document has, and characters by their numbers (XML 1.0, sections 4.1 and 4.6). */
function decoded(text: string): string {
  if (!text.includes('&')) return text;
  return text.replace(/&(?:#x([0-9a-fA-F]{1,6})|#(\d{1,7})|(\w+));/g, (whole, hex, decimal, name) => {
    if (name !== undefined) return entities[name as string] ?? whole;
    const code = hex === undefined ? Number(decimal) : parseInt(hex as string, 16);
    return code <= 0x10ffff ? String.fromCodePoint(code) : whole;
  });
}
