import { expect } from 'chai';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';

const assets = join(import.meta.dirname, '../dist/web/assets');

const fileOf = (name: string): string => {
  const found = readdirSync(assets).find((file) => file.startsWith(`${name}-`) && file.endsWith('.js'));
  if (!found) throw new Error(`The interface was built without a script ${name}`);
  return found;
};

/** A script and all that it cannot begin without. */
function withImports(file: string, found = new Set<string>()): Set<string> {
  if (found.has(file)) return found;
  found.add(file);
  const text = readFileSync(join(assets, file), 'utf8');
  // Not what `import()` asks for later.
  for (const [, name = ''] of text.matchAll(/(?:from|import)\s*["'`]\.\/([^"'`]+\.js)["'`]/g))
    withImports(name, found);
  return found;
}

describe('What a browser loads before it shows anything', () => {
  it('is under 250 kB for the findings, packed as it is sent', () => {
    const files = new Set([...withImports(fileOf('index')), ...withImports(fileOf('findings-page'))]);
    expect(files.size).to.be.above(10);
    const bytes = [...files].reduce(
      (sum, file) => sum + gzipSync(readFileSync(join(assets, file))).byteLength,
      0,
    );
    expect(bytes / 1000).to.be.below(250);
  });
});
