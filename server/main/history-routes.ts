import type { Hono } from 'hono';
import { nameOfTitle } from '../acquire/builds/builds.ts';
import { keptSetting } from '../acquire/builds/title-settings.ts';
import { undoBatch } from '../changes/pass/change-states.ts';
import { keptArrangements } from '../library/arrangements/arrangements.ts';
import { keptTextures } from '../library/textures/corrections.ts';
import { keptFamilies } from '../library/families/corrections.ts';
import { keptLexicon } from '../library/names/lexicons.ts';
import { keptLinks } from '../library/references/accepted-links.ts';
import type { ChannelTables } from '../library/search/channel-tables.ts';
import { addRecipesJob } from '../library/recipes/recipes-job.ts';
import type { JobQueue } from '../jobs/queue.ts';
import { ConflictError } from '../platform/plain-error.ts';
import { scopeOf, undoChange, type KeptItems } from '../people/history/kept-items.ts';
import { peopleRoutes, type Undo } from '../people/routes.ts';
import type { Pool } from '../platform/database/pool.ts';
import { keptEntries } from '../publishing/entries/entries.ts';
import { keptNotes } from '../publishing/notes/notes.ts';

/** The history of all that people say, and the way back of each thing in it. */
export function historyRoutes({
  pool,
  tables,
  queue,
}: {
  pool: Pool;
  tables: ChannelTables;
  queue: JobQueue;
}): Hono {
  const undoOf =
    (kept: KeptItems): Undo =>
    async (changeId, by) => {
      const outcome = await undoChange(pool, kept, changeId, by);
      // What was made of names, links and families is made again.
      tables.forget();
      return outcome;
    };
  /** Builds are read again by what describes them now, as when somebody saves it. */
  const undoDescribed =
    (kept: KeptItems): Undo =>
    async (changeId, by) => {
      const outcome = await undoOf(kept)(changeId, by);
      const { titleId } = await scopeOf(pool, changeId);
      if (outcome.changed > 0) await addRecipesJob(pool, titleId, await nameOfTitle(pool, titleId));
      queue.look();
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
      recipes: undoDescribed(keptSetting('recipes')),
      'format sheets': undoDescribed(keptSetting('format_sheets')),
      arrangements: undoOf(keptArrangements),
      textures: undoOf(keptTextures),
      notes: undoOf(keptNotes),
      entries: undoOf(keptEntries),
      deeds: () => Promise.reject(new ConflictError('This cannot be taken back.')),
    },
  });
}
