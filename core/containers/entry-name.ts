/** Between a container's path and the path inside it: `data/props.zip!/lamps/lamp.glb`. */
export const containerMark = '!/';

/** Systems take no path of more than 4096 bytes. */
const maximumNameLength = 4096;

export type EntryName = { path: string; refused: null } | { path: string; refused: string };

/**
 * Makes the name of an archive's entry into a path below the archive, or says why it is refused.
 * Backslashes part folders as slashes do (archives made on some systems have them); empty and `.` parts fall
 * out. A refused name is returned as it was, to be listed and never to be used for opening anything.
 */
export function checkEntryName(name: string): EntryName {
  const refuse = (refused: string): EntryName => ({ path: name.replaceAll('\0', '\\x00'), refused });
  if (name.includes('\0')) return refuse('the name holds a NUL character');
  const slashed = name.replaceAll('\\', '/');
  if (slashed.startsWith('/')) return refuse('the name is an absolute path');
  if (/^[A-Za-z]:/.test(slashed)) return refuse('the name begins with a drive letter');
  if (name.length > maximumNameLength)
    return refuse(`the name has ${name.length.toLocaleString('en')} characters, more than are read`);
  const parts = slashed.split('/').filter((part) => part !== '' && part !== '.');
  if (parts.includes('..')) return refuse('the name leads out of the archive with “..”');
  if (parts.length === 0) return refuse('the name is empty');
  return { path: parts.join('/'), refused: null };
}

const utf8 = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

/**
 * A name as text. Bytes that are not UTF-8 become `⟨e9⟩`, so that the eye can tell, and names that differ in them stay
 * apart.
 */
export function nameOfBytes(bytes: Uint8Array): string {
  try {
    return utf8.decode(bytes);
  } catch {
    let name = '';
    for (let at = 0; at < bytes.length;) {
      const length = sequenceLength(bytes, at);
      if (length > 0) name += utf8.decode(bytes.subarray(at, at + length));
      else name += `⟨${(bytes[at] ?? 0).toString(16).padStart(2, '0')}⟩`;
      at += Math.max(1, length);
    }
    return name;
  }
}

/** Bytes of the character that begins here; 0 where none does. */
function sequenceLength(bytes: Uint8Array, at: number): number {
  const lead = bytes[at] ?? 0;
  const length = lead < 0x80 ? 1 : lead >= 0xf0 ? 4 : lead >= 0xe0 ? 3 : 2;
  if (at + length > bytes.length) return 0;
  try {
    utf8.decode(bytes.subarray(at, at + length));
    return length;
  } catch {
    return 0;
  }
}

/** Whether a link at `path` (parts parted by `/`) with this target stays within the tree. */
export function linkStaysInside(path: string, target: string): boolean {
  if (target.startsWith('/') || target.startsWith('\\') || /^[A-Za-z]:/.test(target)) return false;
  let depth = path.split('/').length - 1;
  for (const part of target.replaceAll('\\', '/').split('/')) {
    if (part === '' || part === '.') continue;
    depth += part === '..' ? -1 : 1;
    if (depth < 0) return false;
  }
  return true;
}

/** `lamp.glb` becomes `lamp (2).glb`, and so on: a name that `taken` lacks. */
export function unusedName(path: string, taken: ReadonlySet<string>): string {
  const slash = path.lastIndexOf('/');
  const dot = path.lastIndexOf('.');
  const stem = dot > slash + 1 ? path.slice(0, dot) : path;
  const extension = path.slice(stem.length);
  for (let number = 2; ; number++) {
    const candidate = `${stem} (${number})${extension}`;
    if (!taken.has(candidate)) return candidate;
  }
}
