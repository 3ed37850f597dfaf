import type { StepOf, StepOutcome } from '../../../contract/notes.ts';
import { plural } from '../../../core/figures.ts';

type Files = StepOf<'take out'>['files'];

/** What came of taking out, beside what the note says came of it. @param build that it was taken out of */
export function compareFiles(
  step: StepOf<'take out'>,
  build: string,
  written: Files,
  failures: readonly string[],
): Pick<StepOutcome, 'verdict' | 'sentence' | 'proposed'> {
  const files = written.map(({ target, bytes, sha256 }) => ({ target, bytes, sha256 }));
  const proposed = { ...step, build, files };
  const [failure] = failures;
  if (failure !== undefined)
    return {
      ...{ verdict: 'does not fit', proposed: null },
      sentence: `${failure}${failures.length > 1 ? ` ${plural(failures.length - 1, 'other')} could not be written either.` : ''}`,
    };
  if (step.files.length === 0)
    return {
      verdict: 'fits',
      sentence: `It wrote ${plural(files.length, 'file')}; the note has no sums of them yet.`,
      proposed,
    };
  const known = new Map(step.files.map(({ target, sha256 }) => [target, sha256]));
  const fresh = new Map(files.map(({ target, sha256 }) => [target, sha256]));
  const others = step.files.filter(({ target, sha256 }) => fresh.has(target) && fresh.get(target) !== sha256);
  const gone = step.files.filter(({ target }) => !fresh.has(target));
  const come = files.filter(({ target }) => !known.has(target));
  if (others.length + gone.length + come.length === 0)
    return {
      ...{ verdict: 'fits', sentence: `${plural(files.length, 'file')}, the same bytes by SHA-256.` },
      proposed: build === step.build ? null : proposed,
    };
  const parts = [
    [others, 'with other bytes'],
    [gone, 'missing'],
    [come, 'more than the note says'],
  ] as const;
  const sentence = parts
    .filter(([list]) => list.length > 0)
    .map(
      ([list, what]) =>
        `${list[0]?.target ?? ''}${list.length > 1 ? ` and ${plural(list.length - 1, 'other')}` : ''} ${what}`,
    )
    .join('; ');
  return { verdict: build === step.build ? 'does not fit' : 'differs', sentence: `${sentence}.`, proposed };
}
