import { createRequire } from 'node:module';

interface Assimp {
  ConvertFile(
    name: string,
    format: string,
    content: Uint8Array,
    exists: (file: string) => boolean,
    load: (file: string) => Uint8Array,
  ): {
    IsSuccess(): boolean;
    GetFile(at: number): { GetContent(): Uint8Array; delete(): void };
    delete(): void;
  };
}

let loading: Promise<Assimp> | null = null;

function loadAssimp(): Promise<Assimp> {
  return (loading ??= (createRequire(import.meta.url)('assimpjs') as () => Promise<Assimp>)());
}

/**
 * Converts a model of one of the less common formats to GLB. What it names is asked for and taken where it is there: the
 * library cannot wait, so it runs once to hear the names, and again with the files.
 */
export async function convertModel(
  bytes: Uint8Array,
  name: string,
  resolve: (reference: string) => Promise<Uint8Array | null>,
): Promise<{ glb: Uint8Array | null; missing: string[] }> {
  const assimp = await loadAssimp();
  const asked = new Set<string>();
  const files = new Map<string, Uint8Array>();
  const run = (): Uint8Array | null => {
    const result = assimp.ConvertFile(
      name,
      'glb2',
      bytes,
      (file) => {
        asked.add(file);
        return files.has(file);
      },
      (file) => files.get(file) ?? new Uint8Array(0),
    );
    try {
      if (!result.IsSuccess()) return null;
      const file = result.GetFile(0);
      const content = new Uint8Array(file.GetContent());
      file.delete();
      return content;
    } finally {
      result.delete();
    }
  };
  try {
    const first = run();
    for (const file of asked) {
      const found = await resolve(file);
      if (found) files.set(file, found);
    }
    const glb = files.size > 0 ? run() : first;
    return { glb, missing: [...asked].filter((file) => !files.has(file) && file !== name) };
  } catch {
    // It broke down in its own memory, which nothing can be trusted in any more.
    loading = null;
    return { glb: null, missing: [] };
  }
}
