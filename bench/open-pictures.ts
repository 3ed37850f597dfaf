import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';

/** The pictures that the package holds as data addresses. */
export function* openPictures(): Generator<Uint8Array> {
  const root = dirname(createRequire(import.meta.url).resolve('@pmndrs/assets/package.json'));
  for (const folder of ['matcaps', 'normals', 'textures'])
    for (const name of readdirSync(join(root, folder))
      .filter((file) => file.endsWith('.js'))
      .sort()) {
      const data = /data:image\/webp;base64,([^'"]+)/.exec(readFileSync(join(root, folder, name), 'utf8'));
      if (data?.[1]) yield Buffer.from(data[1], 'base64');
    }
}
