import { readFileSync } from 'node:fs';
import { lexiconChangeSchema } from '../contract/names.ts';
import { LexiconFileError, lexiconToCsv, lexiconToJson, readLexicon } from '../core/names/lexicon-file.ts';
import { selectOne } from '../server/platform/database/rows.ts';
import { changeLexicon, readLexiconState } from '../server/library/names/lexicons.ts';
import { NotFoundError, PlainError, messageOf } from '../server/platform/plain-error.ts';
import { UsageError, parseArguments, textOption } from './arguments.ts';
import { dataPath } from './session.ts';
import { withDatabase } from './with-database.ts';

/** Writes a title's lexicon out, or takes one in: all of a file, or nothing of it. */
export async function lexiconCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, { title: textOption, form: textOption });
  const [verb, file, ...rest] = given.positionals;
  const title = given.needed('title');
  const form = given.text('form') ?? (given.flag('json') ? 'json' : 'csv');
  if (form !== 'csv' && form !== 'json') throw new UsageError('--form is csv or json.');
  const isExport = verb === 'export' && file === undefined;
  if (!isExport && (verb !== 'import' || file === undefined || rest.length > 0))
    throw new UsageError('After “lexicon” comes export, or import FILE.');
  await withDatabase(dataPath(given.text('data')), async ({ pool }) => {
    const row = await selectOne<{ id: number }>(pool, 'SELECT id FROM titles WHERE name = ?', [title]);
    if (!row) throw new NotFoundError(`There is no title named ${title}.`);
    if (file === undefined) {
      const { entries } = await readLexiconState(pool, row.id);
      process.stdout.write(form === 'csv' ? lexiconToCsv(entries) : lexiconToJson(entries));
      return;
    }
    const put = read(file);
    await changeLexicon(pool, row.id, lexiconChangeSchema.parse({ put }));
    process.stdout.write(
      `${put.length.toLocaleString('en')} entries of ${file} are in the lexicon of ${title}.\n`,
    );
  });
}

function read(file: string): ReturnType<typeof readLexicon> {
  try {
    return readLexicon(readFileSync(file, 'utf8'));
  } catch (error) {
    throw error instanceof LexiconFileError
      ? new PlainError(`${file} was not read: ${error.message}.`)
      : new PlainError(`${file} cannot be read: ${messageOf(error)}`);
  }
}
