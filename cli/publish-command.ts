import { publishTitle } from '../server/publishing/publish.ts';
import { parseArguments, textOption } from './arguments.ts';
import { dataPath } from './session.ts';
import { withDatabase } from './with-database.ts';

export async function publishCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, { title: textOption, out: textOption });
  const title = given.needed('title');
  const out = given.needed('out');
  const published = await withDatabase(dataPath(given.text('data')), ({ pool, folder }) =>
    publishTitle(pool, folder.store, title, out),
  );
  if (given.flag('json')) process.stdout.write(`${JSON.stringify(published)}\n`);
  else
    process.stdout.write(
      `Edition ${published.edition} with ${published.entries} entries is in ${published.folder}\n`,
    );
}
