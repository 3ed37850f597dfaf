import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';

/** What the package holds as data addresses in scripts: folder and name of each file, and its bytes. */
export function* packedFiles(
  folders: readonly string[],
): Generator<{ folder: string; name: string; bytes: Uint8Array }> {
  const root = dirname(createRequire(import.meta.url).resolve('@pmndrs/assets/package.json'));
  for (const folder of folders)
    for (const script of readdirSync(join(root, folder))
      .filter((file) => file.endsWith('.js'))
      .sort()) {
      const text = readFileSync(join(root, folder, script), 'utf8');
      const data = /data:[\w/.-]*;base64,([^'"`]+)/.exec(text);
      if (data?.[1])
        yield { folder, name: script.replace(/\.js$/, ''), bytes: Buffer.from(data[1], 'base64') };
    }
}

/** The pictures of the package. */
export function* openPictures(): Generator<Uint8Array> {
  for (const { bytes } of packedFiles(['matcaps', 'normals', 'textures'])) yield bytes;
}
