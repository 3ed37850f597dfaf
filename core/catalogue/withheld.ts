/** What may be nowhere in an edition: assets of withheld entries, by path and by content. */
export interface Withheld {
  paths: ReadonlySet<string>;
  hashes: ReadonlySet<string>;
  /** Numbers of the entries themselves. */
  ids: ReadonlySet<number>;
  /** Names of withheld entries, in all languages. */
  names: readonly string[];
}

interface Asset {
  path: string;
  hash: string | null;
  /** Contents of other files that it is shown with. */
  resources: readonly string[];
}

/** Whether an asset shows something that is withheld: itself, its content at another path, or a file that it is shown with. */
export function isWithheld({ path, hash, resources }: Asset, { paths, hashes }: Withheld): boolean {
  return (
    paths.has(path) ||
    (hash !== null && hashes.has(hash)) ||
    resources.some((resource) => hashes.has(resource))
  );
}

/** What is withheld and stands in a text, such as a note: a path, a content or a name as whole words; null where nothing does. */
export function withheldIn(text: string, { paths, hashes, names }: Withheld): string | null {
  for (const list of [paths, hashes]) for (const one of list) if (text.includes(one)) return one;
  const spaced = plainWords(text);
  for (const name of names) if (spaced.includes(plainWords(name))) return name;
  return null;
}

/** Words with one space around each: a name is found as it stands, and within no other word. */
function plainWords(text: string): string {
  return ` ${text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .join(' ')} `;
}
