import { readFileSync } from 'node:fs';
import { lexiconSchema } from '../contract/names.ts';
import { LexiconFileError, readLexicon } from '../core/names/lexicon-file.ts';
import { PlainError, messageOf } from '../server/platform/plain-error.ts';
import { dataPath, getJson, withApplication } from './connection.ts';
import { findTitle } from './find-title.ts';
import type { CommonOptions } from './options.ts';

export interface LexiconOptions extends CommonOptions {
  title: string;
}

export interface ExportLexiconOptions extends LexiconOptions {
  form: 'csv' | 'json';
}

/** Writes a title's lexicon to standard output. */
export async function exportLexiconCommand({ title, form, data }: ExportLexiconOptions): Promise<void> {
  const text = await withApplication(dataPath(data), async (application) => {
    const { id } = await findTitle(application, title);
    return application.getText(`titles/${id}/lexicon/file?form=${form}`);
  });
  process.stdout.write(text);
}

/** Reads entries in: all of a file, or nothing of it. */
export async function importLexiconCommand(file: string, { title, data }: LexiconOptions): Promise<void> {
  const put = read(file);
  await withApplication(dataPath(data), async (application) => {
    const { id } = await findTitle(application, title);
    lexiconSchema.parse(await getJson(application, `titles/${id}/lexicon`, { body: { put } }));
  });
  process.stdout.write(
    `${put.length.toLocaleString('en')} entries of ${file} are in the lexicon of ${title}.\n`,
  );
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
