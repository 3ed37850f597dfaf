import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { builds, writeBuild } from '../../demo/mossline-ferry.ts';

type Label = (typeof builds)[number]['label'];

const written = new Map<Label, Promise<string>>();

/** Puts a build of the demo into a folder. Each is made once for all tests: from the same seed come the same bytes. */
export async function putDemoBuild(label: Label, folder: string): Promise<void> {
  let made = written.get(label);
  if (!made) {
    made = make(label);
    written.set(label, made);
  }
  cpSync(await made, folder, { recursive: true, preserveTimestamps: true, verbatimSymlinks: true });
}

async function make(label: Label): Promise<string> {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-test-demo-'));
  process.on('exit', () => rmSync(folder, { recursive: true, force: true }));
  await writeBuild(label, folder);
  return folder;
}
