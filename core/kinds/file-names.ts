/** A name that none of those in `used` is, whatever the size of its letters; it is one of them then. */
export function uniqueName(name: string, used: Set<string>): string {
  let unique = name;
  for (let number = 2; used.has(unique.toLowerCase()); number++) unique = `${name}-${number}`;
  used.add(unique.toLowerCase());
  return unique;
}

/** A name in letters that no file system objects to; empty where nothing is left of it. */
export function plainName(name: string): string {
  return name
    .normalize('NFC')
    .replace(/[^\p{L}\p{N}._-]+/gu, '-')
    .replace(/^[.-]+|[.-]+$/g, '')
    .slice(0, 120);
}
