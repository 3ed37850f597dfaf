import { readFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import * as z from 'zod';
import {
  noteFileSchema,
  notePathsSchema,
  noteRemarksSchema,
  noteRunSchema,
  noteSchema,
  noteStepsSchema,
  type NoteRun,
  type NoteStep,
} from '../contract/notes.ts';
import { jobSchema } from '../contract/work.ts';
import { plural } from '../core/figures.ts';
import { stepText } from '../core/notes/step-text.ts';
import { stepsToKeep } from '../core/notes/steps-to-keep.ts';
import { PlainError, messageOf } from '../server/platform/plain-error.ts';
import { dataPath, getJson, withApplication, type Connection } from './connection.ts';
import { findChannel, findTitle } from './find-title.ts';
import type { CommonOptions } from './options.ts';
import { clearProgress, showProgress } from './progress.ts';

export interface NoteOptions extends CommonOptions {
  title: string;
  channel: string;
  build?: string;
  query?: string;
  out?: string;
  save?: boolean;
  keep?: boolean;
  json?: boolean;
}

/** The notes of a channel of the application that a command talks to. */
class Notes {
  constructor(
    readonly application: Connection,
    readonly channel: number,
  ) {}

  async get(name: string, query: Record<string, string>): Promise<unknown> {
    const parameters = new URLSearchParams({ channel: String(this.channel), ...query });
    return getJson(this.application, `notes${name}?${parameters}`);
  }

  async read(path: string): Promise<z.infer<typeof noteSchema>> {
    return noteSchema.parse(await this.get('', { path }));
  }

  async list(): Promise<z.infer<typeof notePathsSchema>> {
    return notePathsSchema.parse(await this.get('/all', {}));
  }

  async save(path: string, body: string, steps: readonly NoteStep[], revision: number): Promise<void> {
    await getJson(this.application, 'notes', {
      method: 'PUT',
      body: { channel: this.channel, path, body, steps, revision },
    });
  }
}

async function withNotes<T>(options: NoteOptions, work: (notes: Notes) => Promise<T>): Promise<T> {
  return withApplication(dataPath(options.data), async (application) => {
    const { id } = findChannel(await findTitle(application, options.title), options.channel);
    return work(new Notes(application, id));
  });
}

const print = (text: string): void => void process.stdout.write(`${text}\n`);

export async function showNoteCommand(path: string, options: NoteOptions): Promise<void> {
  const { body, steps, revision } = await withNotes(options, (notes) => notes.read(path));
  if (revision === 0) throw new PlainError(`There is no note on ${path}.`);
  print(
    options.json
      ? JSON.stringify({ body, steps }, null, 1)
      : [...(body === '' ? [] : [body, '']), ...steps.map(numbered)].join('\n'),
  );
}

function numbered(step: NoteStep, at: number): string {
  const { what, parameters } = stepText(step);
  const lines = [
    ...(step.words === '' ? [] : step.words.split('\n')),
    ...parameters.map(({ name, value }) => `${name}: ${value}`),
  ];
  return [`${at + 1}. ${what}`, ...lines.map((line) => `   ${line}`)].join('\n');
}

export async function listNotesCommand(options: NoteOptions): Promise<void> {
  const known = await withNotes(options, (notes) => notes.list());
  for (const one of known)
    print(options.json ? JSON.stringify(one) : `${one.path}: ${plural(one.steps, 'step')}`);
}

/** Prints the steps that are known of an asset; where they are to be kept, they take the place of those of its note. */
export async function suggestNoteCommand(path: string, options: NoteOptions): Promise<void> {
  const { build = '', query = '' } = options;
  const steps = await withNotes(options, async (notes) => {
    const proposed = noteStepsSchema.parse(await notes.get('/proposed', { path, build, query }));
    if (options.save) {
      const { body, revision } = await notes.read(path);
      await notes.save(path, body, proposed, revision);
    }
    return proposed;
  });
  print(options.json ? JSON.stringify({ body: '', steps }, null, 1) : steps.map(numbered).join('\n'));
}

export async function saveNoteCommand(path: string, file: string, options: NoteOptions): Promise<void> {
  const { body, steps } = await readNoteFile(file);
  await withNotes(options, async (notes) => {
    const { revision } = await notes.read(path);
    await notes.save(path, body, steps, revision);
  });
  if (!options.json) print(`The note on ${path} has ${plural(steps.length, 'step')}.`);
}

async function readNoteFile(file: string): Promise<z.infer<typeof noteFileSchema>> {
  try {
    return noteFileSchema.parse(JSON.parse(await readFile(file, 'utf8')));
  } catch (error) {
    const [issue] = error instanceof z.ZodError ? error.issues : [];
    throw new PlainError(
      issue
        ? `${file} is no note: ${issue.path.join('.')}: ${issue.message}`
        : `${file} cannot be read: ${messageOf(error)}`,
    );
  }
}

/** Runs notes again, one after the other, and tells of each step whether it fits. */
export async function runNoteCommand(path: string | undefined, options: NoteOptions): Promise<void> {
  const misfits = await withNotes(options, async (notes) => {
    const paths =
      path === undefined
        ? (await notes.list()).filter(({ steps }) => steps > 0).map((one) => one.path)
        : [path];
    let count = 0;
    for (const [at, one] of paths.entries()) {
      const run = await runToEnd(notes, one, options, paths.length > 1 ? `note-${at + 1}` : '');
      if (options.keep) await keepProposed(notes, run);
      count += run.outcomes.filter(({ verdict }) => verdict === 'does not fit').length;
      print(options.json ? JSON.stringify(run) : runText(run));
    }
    if (!options.json && paths.length > 1)
      print(
        `${plural(paths.length, 'note')}: ${count === 0 ? 'every step fits' : `${plural(count, 'step')} ${count === 1 ? 'does' : 'do'} not fit`}.`,
      );
    return count;
  });
  if (misfits > 0) process.exitCode = 1;
}

async function runToEnd(
  notes: Notes,
  path: string,
  { build = '', out }: NoteOptions,
  below: string,
): Promise<NoteRun> {
  const { application, channel } = notes;
  const folder = out === undefined ? '' : join(resolve(out), below);
  const run = noteRunSchema.parse(
    await getJson(application, 'notes/runs', { body: { channel, path, build, folder } }),
  );
  for (const id of run.jobs)
    try {
      await application.follow(jobSchema.parse(await getJson(application, `work/${id}`)), showProgress);
    } finally {
      clearProgress();
    }
  return noteRunSchema.parse(await getJson(application, `notes/runs/${run.id}`));
}

async function keepProposed(notes: Notes, { path, steps, outcomes, revision }: NoteRun): Promise<void> {
  const next = stepsToKeep(steps, outcomes);
  if (JSON.stringify(next) === JSON.stringify(steps)) return;
  const { body } = await notes.read(path);
  await notes.save(path, body, next, revision);
}

function runText({ path, steps, outcomes }: NoteRun): string {
  return [
    `${path}:`,
    ...steps.flatMap((step, at) => {
      const { verdict = 'by hand', sentence = '' } = outcomes[at] ?? {};
      return [`${at + 1}. ${stepText(step).what}`, `   ${verdict}: ${sentence}`];
    }),
  ].join('\n');
}

export async function checkNoteCommand(path: string | undefined, options: NoteOptions): Promise<void> {
  const found = await withNotes(options, async (notes) => {
    const paths = path === undefined ? (await notes.list()).map((one) => one.path) : [path];
    let count = 0;
    for (const one of paths) {
      const remarks = noteRemarksSchema.parse(await notes.get('/remarks', { path: one }));
      count += remarks.length;
      for (const { step, text } of remarks)
        print(
          options.json
            ? JSON.stringify({ path: one, step, text })
            : `${one}${step === null ? '' : `, step ${step + 1}`}: ${text}`,
        );
    }
    return count;
  });
  if (found > 0) process.exitCode = 1;
}
