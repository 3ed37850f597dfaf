import type { Hono } from 'hono';
import { keptSetting } from '../acquire/builds/title-settings.ts';
import { undoBatch } from '../changes/pass/change-states.ts';
import { keptFamilies } from '../library/families/corrections.ts';
import { keptLexicon } from '../library/names/lexicons.ts';
import { keptLinks } from '../library/references/accepted-links.ts';
import type { ChannelTables } from '../library/search/channel-tables.ts';
import { undoChange, type KeptItems } from '../people/history/kept-items.ts';
import { peopleRoutes, type Undo } from '../people/routes.ts';
import type { Pool } from '../platform/database/pool.ts';
import { keptEntries } from '../publishing/entries.ts';
import { keptNotes } from '../publishing/notes.ts';

/** The history of all that people say, and the way back of each thing in it. */
export function historyRoutes({ pool, tables }: { pool: Pool; tables: ChannelTables }): Hono {
  const undoOf =
    (kept: KeptItems): Undo =>
    async (changeId, by) => {
      const outcome = await undoChange(pool, kept, changeId, by);
      // What was made of names, links and families is made again.
      tables.forget();
      return outcome;
    };
  const undoMarks: Undo = async (changeId, by) => {
    const { batch, changed, conflicts } = await undoBatch(pool, changeId, by);
    return { change: batch, changed, conflicts: conflicts.map(({ path }) => path) };
  };
  return peopleRoutes({
    pool,
    undo: {
      marks: undoMarks,
      lexicon: undoOf(keptLexicon),
      links: undoOf(keptLinks),
      families: undoOf(keptFamilies),
      'noise rules': undoOf(keptSetting('noise_rules')),
      recipes: undoOf(keptSetting('recipes')),
      'format sheets': undoOf(keptSetting('format_sheets')),
      notes: undoOf(keptNotes),
      entries: undoOf(keptEntries),
    },
  });
}
