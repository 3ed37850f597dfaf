import type { Note, NoteRemark } from '../../../contract/notes.ts';
import { checkNote, type KnownOfNote } from '../../../core/notes/check-note.ts';
import { planOfRequest, type HaulContext } from '../../hauls/begin-haul.ts';
import { listProfiles } from '../../hauls/profiles.ts';
import { NotFoundError } from '../../platform/plain-error.ts';

/** What a beginner would stumble over in a note, by what is known here. */
export async function remarksOn(
  services: HaulContext,
  channel: number,
  path: string,
  note: Pick<Note, 'body' | 'steps'>,
): Promise<NoteRemark[]> {
  const profiles = await listProfiles(services.pool);
  const plans: [number, { targets: string[]; missing: string[] }][] = [];
  for (const [at, step] of note.steps.entries()) {
    if (step.does !== 'take out' || step.build === '') continue;
    try {
      const { writings, missing } = await planOfRequest(services, {
        ...{ channel, haul: null, name: path, settings: step.settings },
        assets: step.paths.map((one) => ({ path: one, build: step.build })),
      });
      const targets = writings.flatMap(({ stem, endings }) => endings.map((ending) => stem + ending));
      plans.push([at, { targets, missing: missing.map(({ text }) => text) }]);
    } catch (error) {
      // A build that is not here is told by running the note: here it is only looked through.
      if (!(error instanceof NotFoundError)) throw error;
    }
  }
  const known: KnownOfNote = {
    path,
    profile: (name) => profiles.find((one) => one.name === name)?.settings ?? null,
    plans: new Map(plans),
  };
  return checkNote(note, known);
}
