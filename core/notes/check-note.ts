import type { HaulSettings } from '../../contract/haul-settings.ts';
import type { Note, NoteRemark, NoteStep, StepOf } from '../../contract/notes.ts';
import { plural } from '../figures.ts';
import { settingsDifferences } from '../hauls/settings-differences.ts';

/** What is known beside the note itself. */
export interface KnownOfNote {
  /** The asset that the note is on. */
  path: string;
  /** The settings of a profile as they are now; null where there is none of this name. */
  profile: (name: string) => HaulSettings | null;
  /** What taking out would write now, by the number of the step; none where that cannot be told. */
  plans: ReadonlyMap<number, { targets: readonly string[]; missing: readonly string[] }>;
}

/**
 * What beginners stumble over in a note: a step without its build, a path that no step reaches, a setting that differs from the
 * profile that it names, a key that readers do not have, a file left out.
 */
export function checkNote({ steps, body }: Pick<Note, 'steps' | 'body'>, known: KnownOfNote): NoteRemark[] {
  if (steps.length === 0)
    return body.trim() === ''
      ? [{ step: null, text: 'Nothing is written here: nobody can repeat it.' }]
      : [{ step: null, text: 'It has words and no steps: it cannot be run again.' }];
  const remarks: NoteRemark[] = [];
  steps.forEach((step, at) => {
    const before = steps.slice(0, at);
    const say = (text: string): void => void remarks.push({ step: at, text });
    if ('build' in step && step.build === '') say('It does not say of which build.');
    if (step.does === 'bring in') checkKeys(step, say);
    else if ('build' in step) checkBuild(step.build, before, say);
    if (step.does === 'take out') checkTakenOut(step, at, before, known, say);
  });
  const reached = steps.some(
    (step) =>
      (step.does === 'find' && step.path === known.path) ||
      (step.does === 'take out' && step.paths.includes(known.path)),
  );
  if (!reached) remarks.push({ step: null, text: `No step comes to ${known.path}, which the note is on.` });
  return remarks;
}

type Say = (text: string) => void;

function checkKeys({ keys }: StepOf<'bring in'>, say: Say): void {
  if (keys.length > 0)
    say(
      `Readers need the ${keys.length === 1 ? 'key' : 'keys'} ${keys.map((key) => `“${key}”`).join(', ')}, which this note cannot give them.`,
    );
}

function checkBuild(build: string, before: readonly NoteStep[], say: Say): void {
  if (build === '') return;
  if (!before.some((step) => step.does === 'bring in' && step.build === build))
    say(`No step before it says how build ${build} is brought in.`);
}

function checkTakenOut(
  { paths, profile, settings, files }: StepOf<'take out'>,
  at: number,
  before: readonly NoteStep[],
  known: KnownOfNote,
  say: Say,
): void {
  const hasSearch = before.some(({ does }) => does === 'search');
  const found = new Set(before.flatMap((step) => (step.does === 'find' ? [step.path] : [])));
  const unreached = hasSearch ? [] : paths.filter((path) => !found.has(path));
  if (unreached.length > 0)
    say(`No step before it comes to ${unreached[0] ?? ''}${andOthers(unreached.length)}.`);
  if (profile !== '') {
    const kept = known.profile(profile);
    if (!kept) say(`There is no profile “${profile}” any more.`);
    const [first, ...others] = kept ? settingsDifferences(settings, kept) : [];
    if (first)
      say(
        `${first.name} is ${first.value || 'empty'} here, and ${first.other || 'empty'} in the profile “${profile}”${others.length > 0 ? `; ${plural(others.length, 'other setting')} too` : ''}.`,
      );
  }
  if (files.length === 0) say('It has no files with their sums yet: run it once.');
  const plan = known.plans.get(at);
  const listed = new Set(files.map(({ target }) => target));
  const left = files.length === 0 ? [] : (plan?.targets.filter((target) => !listed.has(target)) ?? []);
  if (left.length > 0)
    say(`It would also write ${left[0] ?? ''}${andOthers(left.length)}, which is not listed.`);
  const [missing] = plan?.missing ?? [];
  if (missing !== undefined)
    say(`${missing} is named and not in the build${andOthers(plan?.missing.length ?? 1)}.`);
}

function andOthers(count: number): string {
  return count > 1 ? ` and ${plural(count - 1, 'other')}` : '';
}
