import type { NoteStep, StepOutcome } from '../../contract/notes.ts';

/** The steps of a note with what was proposed for each when it was run: those that fit as they are stay. */
export function stepsToKeep(steps: readonly NoteStep[], outcomes: readonly StepOutcome[]): NoteStep[] {
  return steps.map((step, at) => outcomes[at]?.proposed ?? step);
}
