import { publishTitle } from '../server/publishing/publish.ts';
import { openStore } from '../server/store/content-store.ts';
import { dataPath } from './connection.ts';
import type { CommonOptions } from './options.ts';
import { withDatabase } from './with-database.ts';

export interface PublishOptions extends CommonOptions {
  title: string;
  out: string;
  json?: boolean;
}

/** Writes the site in this process, beside a server too: where it goes is for the person at this machine to say. */
export async function publishCommand({ title, out, json, data }: PublishOptions): Promise<void> {
  const published = await withDatabase(dataPath(data), ({ pool, folder }) =>
    publishTitle(pool, openStore(pool, folder.store), title, out),
  );
  if (json) process.stdout.write(`${JSON.stringify(published)}\n`);
  else
    process.stdout.write(
      `Edition ${published.edition} with ${published.entries} entries is in ${published.folder}\n`,
    );
}
