import type { SeenContainer } from '../contract/look.ts';
import { bytesText } from '../core/figures.ts';
import { lookInto } from '../server/ingest/look.ts';
import { normaliseSource } from '../server/ingest/source-path.ts';

const shownFolders = 20;

/** Lists what lies where in a source, largest first, without reading it. */
export async function lookCommand(pasted: string, { json }: { json?: boolean }): Promise<void> {
  const seen = await lookInto(normaliseSource(pasted));
  if (json) {
    process.stdout.write(`${JSON.stringify(seen)}\n`);
    return;
  }
  const print = (line: string): void => void process.stdout.write(`${line}\n`);
  print(
    `${seen.source}: ${seen.files} files, ${bytesText(seen.bytes)}, looked at in ${seen.seconds.toFixed(1)} s`,
  );
  if (seen.contentRoot !== '') print(`Everything lies in ${seen.contentRoot}`);
  if (seen.containers.length > 0) print('\nContainers');
  for (const container of seen.containers)
    print(
      `${bytesText(container.bytes).padStart(10)}  ${container.format.padEnd(7)} ${stateOf(container).padEnd(34)} ${container.path}`,
    );
  if (seen.folders.length > 0) print('\nFolders');
  for (const { path, files, bytes } of seen.folders.slice(0, shownFolders))
    print(`${bytesText(bytes).padStart(10)}  ${`${files} files`.padEnd(14)} ${path}/`);
  if (seen.folders.length > shownFolders) print(`… and ${seen.folders.length - shownFolders} smaller ones`);
  for (const { path, reason } of seen.problems) print(`${path}: ${reason}`);
}

function stateOf({ entries, unpackedBytes, lock, reason }: SeenContainer): string {
  if (reason !== null) return reason;
  const size = entries === null ? '' : `${entries} files, ${bytesText(unpackedBytes)}`;
  return [size, lock === 'open' ? '' : lock].filter((part) => part !== '').join(', ');
}
