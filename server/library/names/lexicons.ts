import type { LexiconChange, LexiconEntry, LexiconState } from '../../../contract/names.ts';
import * as z from 'zod';
import type { Author } from '../../people/history/change-log.ts';
import { changeItems, type KeptItems } from '../../people/history/kept-items.ts';
import { lexiconEntrySchema, splitRulesSchema } from '../../../contract/names.ts';
import { Lexicon } from '../../../core/names/lexicon.ts';
import { usualRules } from '../../../core/names/split.ts';
import type { Pool } from '../../platform/database/pool.ts';
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

/** What is said of parts of names, and how names are split: `part gru`, and `splitting`. */
const splitting = 'splitting';
const partItem = (part: string): string => `part ${part.toLowerCase()}`;
const partOf = (item: string): string => item.slice('part '.length);

const keptPartSchema = lexiconEntrySchema.omit({ part: true }).extend({ isRefused: z.boolean() });

function partState(
  { role, meaning, saidBy, sinceBuild }: Omit<LexiconEntry, 'part'>,
  isRefused: boolean,
): string {
  return JSON.stringify({ role, meaning, saidBy, sinceBuild, isRefused });
}

export const keptLexicon: KeptItems = {
  subject: 'lexicon',
  async read(connection, { titleId }, items) {
    const states = new Map<string, string>();
    const parts = items.filter((item) => item !== splitting).map(partOf);
    for (let from = 0; from < parts.length; from += 500) {
      const rows = await select<LexiconEntry & { refused: number }>(
        connection,
        `SELECT part, role, meaning, said_by AS saidBy, since_build AS sinceBuild, refused
           FROM lexicon WHERE title_id = ? AND part IN (?) FOR UPDATE`,
        [titleId, parts.slice(from, from + 500)],
      );
      for (const { part, refused, ...entry } of rows)
        states.set(partItem(part), partState(entry, refused === 1));
    }
    if (items.includes(splitting)) {
      const { rules } = (await selectOne<{ rules: unknown }>(
        connection,
        'SELECT split_rules AS rules FROM titles WHERE id = ? FOR UPDATE',
        [titleId],
      )) ?? { rules: null };
      const value = parseColumn(rules);
      if (value !== null) states.set(splitting, JSON.stringify(splitRulesSchema.parse(value)));
    }
    return states;
  },
  async write(connection, { titleId }, states) {
    const gone = [...states]
      .filter(([item, state]) => item !== splitting && state === null)
      .map(([item]) => partOf(item));
    for (let from = 0; from < gone.length; from += 500)
      await change(connection, 'DELETE FROM lexicon WHERE title_id = ? AND part IN (?)', [
        titleId,
        gone.slice(from, from + 500),
      ]);
    const rows = [...states].flatMap(([item, state]) =>
      item === splitting || state === null
        ? []
        : [{ part: partOf(item), ...keptPartSchema.parse(JSON.parse(state)) }],
    );
    for (let from = 0; from < rows.length; from += 500) {
      const some = rows.slice(from, from + 500);
      await change(
        connection,
        `REPLACE INTO lexicon (title_id, part, role, meaning, said_by, since_build, refused)
          VALUES ${some.map(() => '(?, ?, ?, ?, ?, ?, ?)').join(', ')}`,
        some.flatMap(({ part, role, meaning, saidBy, sinceBuild, isRefused }) => [
          titleId,
          part,
          role,
          meaning,
          saidBy,
          sinceBuild,
          isRefused ? 1 : 0,
        ]),
      );
    }
    if (states.has(splitting))
      await change(connection, 'UPDATE titles SET split_rules = ? WHERE id = ?', [
        states.get(splitting) ?? null,
        titleId,
      ]);
    await bumpNames(connection, titleId);
  },
};

/**
 * Changes a lexicon: all of it happens, or nothing. Who says what a part means is whoever changes it, unless a file that is read
 * in names somebody. @throws ConflictError where somebody was faster, NotFoundError
 */
export async function changeLexicon(
  pool: Pool,
  titleId: number,
  { put, drop, refuse, rules, revision }: LexiconChange,
  author: Author,
): Promise<void> {
  const present = await readLexiconState(pool, titleId);
  if (revision !== undefined && revision !== present.revision)
    throw new ConflictError('Somebody else changed the lexicon meanwhile. Load it again, then change it.');
  const next = new Map<string, string | null>(drop.map((part) => [partItem(part), null]));
  for (const { part, ...entry } of put)
    next.set(partItem(part), partState({ ...entry, saidBy: entry.saidBy || author.by }, false));
  for (const part of refuse)
    next.set(
      partItem(part),
      partState({ role: 'belongs to', meaning: '', saidBy: author.by, sinceBuild: '' }, true),
    );
  if (rules) next.set(splitting, JSON.stringify(rules));
  const what = [
    ...put.slice(0, 3).map(({ part, meaning, role }) => `“${part}” is ${meaning || role}`),
    ...(put.length > 3 ? [`${put.length - 3} more parts of names`] : []),
    ...(drop.length > 0 ? [`nothing is said any more of ${namesOf(drop)}`] : []),
    ...(refuse.length > 0 ? [`${namesOf(refuse)} not to be proposed`] : []),
    ...(rules ? ['names are split by other rules'] : []),
  ];
  await changeItems(pool, keptLexicon, { titleId, channelId: null }, next, what.join(', '), author);
}

function namesOf(parts: readonly string[]): string {
  return parts.length <= 3 ? parts.map((part) => `“${part}”`).join(', ') : `${parts.length} parts`;
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

  get({ titleId, namesRevision }: { titleId: number; namesRevision: number }): Promise<Lexicon> {
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
