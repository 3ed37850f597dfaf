// Compiles the kernels to WebAssembly, as a module of TypeScript: what uses them needs no build first.
import asc from 'assemblyscript/asc';
import { readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const folder = dirname(fileURLToPath(import.meta.url));
const pages = 28;

/** The text of `module.ts`, as the sources of today give it. */
export async function compileKernels() {
  let binary = null;
  const { error, stderr } = await asc.main(
    [
      'index.ts',
      ...['--baseDir', join(folder, 'assembly'), '--outFile', 'kernels.wasm'],
      ...['--runtime', 'stub', '--enable', 'simd', '-O3', '--noAssert'],
      ...['--initialMemory', String(pages), '--maximumMemory', String(pages)],
    ],
    {
      readFile: (name, base) => {
        try {
          return readFileSync(join(base, name), 'utf8');
        } catch {
          // The compiler asks for files where they might be.
          return null;
        }
      },
      writeFile: (name, contents) => {
        if (name.endsWith('.wasm')) binary = contents;
      },
      listFiles: () => [],
    },
  );
  if (error || binary === null) throw error ?? new Error(stderr.toString());
  const lines = Buffer.from(binary)
    .toString('base64')
    .match(/.{1,100}/g);
  return `/** Made by compile.js from the sources in assembly/. */
export const kernels =
${lines.map((line) => `  '${line}'`).join(' +\n')};
`;
}

if (process.argv[1] === fileURLToPath(import.meta.url))
  writeFileSync(join(folder, 'module.ts'), await compileKernels());
