import type { Command } from 'commander';
import type { NoteOptions } from './note-command.ts';
import { channelOption, examples, jsonFlag, needed, titleOption } from './options.ts';

/** `worvel note …`: how assets were taken out, and doing it again. */
export function addNoteCommands(program: Command): void {
  const note = program.command('note').description('Read, check and run again how assets were taken out.');
  const add = (name: string, description: string, lines: readonly string[]): Command =>
    note
      .command(name)
      .description(description)
      .addOption(titleOption())
      .addOption(channelOption())
      .option('--data <folder>', 'the data folder')
      .option(...jsonFlag)
      .addHelpText('after', examples(lines));
  const title = '--title "Mossline Ferry"';

  add('show <path>', 'Print a note: its words and its steps.', [
    `note show music/lamplight.wav ${title}`,
    `note show music/lamplight.wav ${title} --json > lamplight.note.json`,
  ]).action(async (path: string, options: NoteOptions) =>
    (await import('./note-command.ts')).showNoteCommand(path, options),
  );
  add('list', 'List the notes of a channel.', [`note list ${title}`]).action(async (options: NoteOptions) =>
    (await import('./note-command.ts')).listNotesCommand(options),
  );
  add('suggest <path>', 'Print the steps that are known of an asset; with --save they become its note.', [
    `note suggest music/lamplight.wav ${title} --build 0.2 --save`,
  ])
    .addOption(needed('--build <label>', 'the build'))
    .option('--query <text>', 'the search that it was found by')
    .option('--save', 'keep them as the steps of its note')
    .action(async (path: string, options: NoteOptions) =>
      (await import('./note-command.ts')).suggestNoteCommand(path, options),
    );
  add('save <path> <file>', 'Keep a note from a file, as “note show --json” prints it.', [
    `note save music/lamplight.wav lamplight.note.json ${title}`,
  ]).action(async (path: string, file: string, options: NoteOptions) =>
    (await import('./note-command.ts')).saveNoteCommand(path, file, options),
  );
  add('run [path]', 'Run a note again, or all of a channel. Ends with 1 where a step does not fit.', [
    `note run music/lamplight.wav ${title}`,
    `note run ${title} --build 0.3`,
    `note run ${title} --build 0.3 --keep`,
  ])
    .option('--build <label>', 'on this build, instead of the one that the note names')
    .option('--out <folder>', 'where what is taken out goes')
    .option('--keep', 'take what is proposed over into the note')
    .action(async (path: string | undefined, options: NoteOptions) =>
      (await import('./note-command.ts')).runNoteCommand(path, options),
    );
  add('check [path]', 'Tell what a reader would stumble over. Ends with 1 where there is anything.', [
    `note check ${title}`,
  ]).action(async (path: string | undefined, options: NoteOptions) =>
    (await import('./note-command.ts')).checkNoteCommand(path, options),
  );
}
