const endings: Readonly<Record<string, string>> = {
  'image/png': 'png',
  'image/jpeg': 'jpg',
  'image/webp': 'webp',
};

/** A name that none of those in `used` is, whatever the size of its letters; it is one of them then. */
export function uniqueName(name: string, used: Set<string>): string {
  let unique = name;
  for (let number = 2; used.has(unique.toLowerCase()); number++) unique = `${name}-${number}`;
  used.add(unique.toLowerCase());
  return unique;
}

/** What a picture of a model is called behind the model's stem: in a folder of its own. */
export function endingOfPicture(name: string, mediaType: string, used: Set<string>): string {
  // Letters that no file system objects to.
  const plain = name
    .normalize('NFC')
    .replace(/[^\p{L}\p{N}._-]+/gu, '-')
    .replace(/^[.-]+|[.-]+$/g, '')
    .slice(0, 120);
  return `.pictures/${uniqueName(plain || 'picture', used)}.${endings[mediaType] ?? 'png'}`;
}
