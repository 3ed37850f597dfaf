import { extensionOf, formatByExtension } from './formats.ts';

/**
 * What a content says of another file: as a path, which is missing where nothing lies there, or as a name only, which may
 * mean nothing.
 */
export interface Mention {
  text: string;
  sort: 'path' | 'name';
  /** Where it says so: the key of the value, the role of the texture. */
  where: string;
}

/** More are not kept: a table of a million rows names the same few thousand things. */
const mostMentions = 20_000;
/** Of names that may be anything, no more: a table with a thousand of them lists things, and refers to none. */
const mostNames = 24;
const longestPath = 400;

/** Words of keys whose values name files. Common practice, with no published source. */
const fileKeys =
  /(^|[^a-z])(model|mesh|tex|texture|map|file|path|material|sound|audio|music|clip|anim|animation|icon|image|picture|sprite|portrait|skin|skeleton|scene|prefab|font|film|movie|video|script|asset|ref|reference|source|src|href|uri)s?([^a-z]|$)/i;

/** Mentions of different things, in the order in which they come. */
export class Mentions {
  private readonly known = new Map<string, Mention>();
  private names = 0;

  /** Of a content that says that it names a file. */
  addPath(text: string, where: string): void {
    this.add({ text: text.trim(), sort: 'path', where });
  }

  addName(text: string, where: string): void {
    if (isName(text)) this.add({ text, sort: 'name', where });
  }

  /** Of a value that may be anything: it is taken for a path or a name where it looks like one. */
  addValue(text: string, key: string): void {
    if (!mayName(text)) return;
    const value = text.trim();
    if (value === '' || value.length > longestPath) return;
    if (isPath(value, key)) this.add({ text: value, sort: 'path', where: key });
    else if (this.names < mostNames && isName(value)) {
      this.names++;
      this.add({ text: value, sort: 'name', where: key });
    }
  }

  add(mention: Mention): void {
    if (mention.text === '' || mention.text.length > longestPath || this.known.size >= mostMentions) return;
    const before = this.known.get(mention.text);
    if (!before || (before.sort === 'name' && mention.sort === 'path')) this.known.set(mention.text, mention);
  }

  list(): Mention[] {
    return [...this.known.values()];
  }
}

/**
 * Whether a text has what every path and name has: a letter of ASCII, and a dot, a slash, a digit, a hyphen or a low line.
 * Looking at each letter once is many times as fast as asking patterns.
 */
export function mayName(text: string): boolean {
  let [hasLetter, hasMark] = [false, false];
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if ((code >= 97 && code <= 122) || (code >= 65 && code <= 90)) hasLetter = true;
    else if ((code >= 45 && code <= 57) || code === 95 || code === 92) hasMark = true;
    if (hasLetter && hasMark) return true;
  }
  return false;
}

function isPath(value: string, key: string): boolean {
  if (/[\n\r\t<>|?*"]|:\/\//.test(value)) return false;
  const hasKnownExtension = /^[a-z0-9]+$/.test(extensionOf(value)) && formatByExtension(value) !== null;
  // A sentence that ends in what looks like an extension has spaces before it, and no key that speaks of files.
  if (hasKnownExtension) return !/\s/.test(value) || /[\\/]/.test(value) || fileKeys.test(key);
  if (!/[\\/]/.test(value) || /\s/.test(value)) return false;
  const segments = value.split(/[\\/]+/).filter((segment) => segment !== '');
  if (segments.length < 2 || !segments.every((segment) => /^[\w.!~@+-]+$/.test(segment))) return false;
  if (!segments.some((segment) => /[a-z]/i.test(segment))) return false;
  return segments.length > 2 || fileKeys.test(key);
}

/** Whether a value may be the name of a file without its folder and extension. */
function isName(value: string): boolean {
  return /^[\w-]{3,80}$/.test(value) && /[a-z]/i.test(value) && /[_\d-]/.test(value);
}
