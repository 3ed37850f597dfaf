import type { Note, NoteStep } from '../../contract/notes.ts';
import { plural } from '../figures.ts';
import { stepText } from './step-text.ts';

type Written = Pick<Note, 'body' | 'steps'>;

/** What became different from one revision of a note to the next, in sentences. */
export function noteChanges(before: Written, after: Written): string[] {
  const changes: string[] = [];
  if (before.body !== after.body)
    changes.push(textChange('The words before the steps', before.body, after.body));
  const keys = (steps: readonly NoteStep[]): string[] => steps.map((step) => JSON.stringify(step));
  const [old, fresh] = [keys(before.steps), keys(after.steps)];
  const gone = before.steps.filter((_, at) => !fresh.includes(old[at] ?? ''));
  const come = after.steps.filter((_, at) => !old.includes(fresh[at] ?? ''));
  for (const step of come) {
    // The same kind of step about the same thing is that step, changed.
    const at = gone.findIndex((other) => subjectOf(other) === subjectOf(step));
    const place = `Step ${after.steps.indexOf(step) + 1}`;
    if (at < 0) changes.push(`${place} is new: ${stepText(step).what}`);
    else changes.push(...stepChanges(place, gone[at] ?? step, step));
    if (at >= 0) gone.splice(at, 1);
  }
  for (const step of gone)
    changes.push(`Step ${before.steps.indexOf(step) + 1} is gone: ${stepText(step).what}`);
  const kept = old.filter((key) => fresh.includes(key));
  if (kept.join('\n') !== fresh.filter((key) => old.includes(key)).join('\n'))
    changes.push('The steps stand in another order.');
  return changes;
}

function textChange(name: string, before: string, after: string): string {
  if (before === '') return `${name} are new.`;
  if (after === '') return `${name} are gone.`;
  const lines = (text: string): string[] => text.split('\n');
  const [old, fresh] = [lines(before), lines(after)];
  const added = fresh.filter((line) => !old.includes(line)).length;
  const removed = old.filter((line) => !fresh.includes(line)).length;
  return `${name} are others: ${plural(added, 'line')} new, ${plural(removed, 'line')} gone.`;
}

/** What a step is about, whatever its parameters. */
function subjectOf(step: NoteStep): string {
  if (step.does === 'find' || step.does === 'correct')
    return `${step.does} ${step.path.replace(/^.*\//, '')}`;
  if (step.does === 'describe') return `${step.does} ${step.name}`;
  return step.does;
}

function stepChanges(place: string, before: NoteStep, after: NoteStep): string[] {
  const [old, fresh] = [stepText(before), stepText(after)];
  const changes: string[] = [];
  if (old.what !== fresh.what) changes.push(`${place} was “${old.what}” and is “${fresh.what}”`);
  const listed = ({ parameters }: typeof old): string[] =>
    parameters.map(({ name, value }) => `${name}: ${value}`);
  const [was, is] = [listed(old), listed(fresh)];
  for (const one of is.filter((line) => !was.includes(line))) changes.push(`${place} has ${one}`);
  for (const one of was.filter((line) => !is.includes(line))) changes.push(`${place} no longer has ${one}`);
  if (before.words !== after.words)
    changes.push(textChange(`The words of ${place.toLowerCase()}`, before.words, after.words));
  return changes;
}
