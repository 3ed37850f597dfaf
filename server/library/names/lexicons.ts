import type { LexiconChange, LexiconEntry, LexiconState } from '../../../contract/names.ts';
import { lexiconEntrySchema, splitRulesSchema } from '../../../contract/names.ts';
import { Lexicon } from '../../../core/names/lexicon.ts';
import { usualRules } from '../../../core/names/split.ts';
import { inTransaction, type Pool, type PoolConnection } from '../../platform/database/pool.ts';
import { change, parseColumn, select, selectOne, type Queryable } from '../../platform/database/rows.ts';
import { ConflictError, NotFoundError } from '../../platform/plain-error.ts';

/** A title's lexicon, as people wrote it. @throws NotFoundError */
export async function readLexiconState(database: Queryable, titleId: number): Promise<LexiconState> {
  const title = await selectOne<{ rules: unknown; revision: number }>(
    database,
    'SELECT split_rules AS rules, names_revision AS revision FROM titles WHERE id = ?',
    [titleId],
  );
  if (!title) throw new NotFoundError(`There is no title ${titleId}.`);
  const rows = await select<LexiconEntry & { refused: number }>(
    database,
    `SELECT part, role, meaning, said_by AS saidBy, since_build AS sinceBuild, refused
       FROM lexicon WHERE title_id = ? ORDER BY part`,
    [titleId],
  );
  return {
    rules: title.rules === null ? usualRules : splitRulesSchema.parse(parseColumn(title.rules)),
    entries: rows
      .filter(({ refused }) => refused === 0)
      .map(({ refused: _, ...entry }) => lexiconEntrySchema.parse(entry)),
    refused: rows.filter(({ refused }) => refused === 1).map(({ part }) => part),
    revision: title.revision,
  };
}

/** Changes a lexicon: all of it happens, or nothing. @throws ConflictError where somebody was faster */
export async function changeLexicon(
  pool: Pool,
  titleId: number,
  { put, drop, refuse, rules, revision }: LexiconChange,
): Promise<void> {
  await inTransaction(pool, async (connection) => {
    const title = await selectOne<{ revision: number }>(
      connection,
      'SELECT names_revision AS revision FROM titles WHERE id = ? FOR UPDATE',
      [titleId],
    );
    if (!title) throw new NotFoundError(`There is no title ${titleId}.`);
    if (revision !== undefined && revision !== title.revision)
      throw new ConflictError('Somebody else changed the lexicon meanwhile. Load it again, then change it.');
    for (let from = 0; from < drop.length; from += 500)
      await change(connection, 'DELETE FROM lexicon WHERE title_id = ? AND part IN (?)', [
        titleId,
        drop.slice(from, from + 500),
      ]);
    for (const entry of put) await putEntry(connection, titleId, entry, false);
    for (const part of refuse)
      await putEntry(
        connection,
        titleId,
        { part, role: 'belongs to', meaning: '', saidBy: '', sinceBuild: '' },
        true,
      );
    if (rules)
      await change(connection, 'UPDATE titles SET split_rules = ? WHERE id = ?', [
        JSON.stringify(rules),
        titleId,
      ]);
    await bumpNames(connection, titleId);
  });
}

async function putEntry(
  connection: PoolConnection,
  titleId: number,
  { part, role, meaning, saidBy, sinceBuild }: LexiconEntry,
  isRefused: boolean,
): Promise<void> {
  await change(
    connection,
    `REPLACE INTO lexicon (title_id, part, role, meaning, said_by, since_build, refused)
      VALUES (?, ?, ?, ?, ?, ?, ?)`,
    [titleId, part.toLowerCase(), role, meaning, saidBy, sinceBuild, isRefused ? 1 : 0],
  );
}

/** What was made of a title's names, links and families is to be made again. */
export async function bumpNames(database: Queryable, titleId: number): Promise<void> {
  await change(database, 'UPDATE titles SET names_revision = names_revision + 1 WHERE id = ?', [titleId]);
}

/** Lexicons of titles, as they were read last. */
export class Lexicons {
  private readonly pool: Pool;
  private readonly known = new Map<number, { revision: number; lexicon: Promise<Lexicon> }>();

  constructor(pool: Pool) {
    this.pool = pool;
  }

  of({ titleId, namesRevision }: { titleId: number; namesRevision: number }): Promise<Lexicon> {
    const known = this.known.get(titleId);
    if (known?.revision === namesRevision) return known.lexicon;
    const lexicon = readLexiconState(this.pool, titleId).then(
      ({ entries, rules, refused }) => new Lexicon(entries, rules, refused),
    );
    this.known.set(titleId, { revision: namesRevision, lexicon });
    lexicon.catch(() => this.known.delete(titleId));
    return lexicon;
  }
}
