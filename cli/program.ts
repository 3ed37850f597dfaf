import { Command, Option } from 'commander';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { applicationRoot } from '../server/platform/application-root.ts';
import type { AuditOptions } from './audit-command.ts';
import type { BenchOptions } from './bench-command.ts';
import type { CheckOptions } from './check-command.ts';
import type { ConvertOptions } from './convert-command.ts';
import type { DiffOptions } from './diff-command.ts';
import type { HaulOptions } from './haul-command.ts';
import type { IndexOptions } from './index-command.ts';
import type { AddKeyOptions, KeyOptions } from './key-command.ts';
import type { TryFormatOptions } from './format-command.ts';
import type { GuessOptions } from './format-guess-command.ts';
import type { FitOptions, SheetOptions, VersionOptions } from './format-sheets-command.ts';
import type { ExportLexiconOptions, LexiconOptions } from './lexicon-command.ts';
import type { PublishOptions } from './publish-command.ts';
import type { PutBackOptions } from './put-back-command.ts';
import type { RemoveOptions } from './remove-command.ts';
import type { ReportOptions } from './report-command.ts';
import type { SearchOptions } from './search-command.ts';
import type { ServeOptions } from './serve-command.ts';
import { benchNames } from './bench-names.ts';
import { addNoteCommands } from './note-program.ts';
import {
  type CommonOptions,
  channelOption,
  countOption,
  examples,
  jsonFlag,
  listOption,
  needed,
  titleOption,
} from './options.ts';

function versionOf(): string {
  const { version } = JSON.parse(readFileSync(join(applicationRoot, 'package.json'), 'utf8')) as {
    version: string;
  };
  return version;
}

/**
 * All commands with their options. What carries a command out is loaded only when it is called: a quick one must not wait for
 * what the slow ones need.
 */
export function createProgram(): Command {
  const program = new Command('worvel')
    .description(
      'Indexes the builds of a game, shows what each update changed, and publishes a catalogue of it.',
    )
    .version(versionOf(), '-V, --version', 'print the version')
    .helpOption('-h, --help', 'print help')
    .helpCommand('help [command]', 'print help on a command')
    .showSuggestionAfterError()
    .exitOverride()
    .addHelpText(
      'after',
      examples([
        'demo',
        'index /games/build-1.2 --title "Mossline Ferry" --build 1.2',
        'diff --title "Mossline Ferry" --from 1.1 --to 1.2 --evidence',
      ]),
    );

  const add = (name: string, description: string, lines: readonly string[]): Command =>
    program
      .command(name)
      .description(description)
      .option('--data <folder>', 'the data folder (default: WORVEL_DATA, or .worvel/ in the checkout)')
      .addHelpText('after', examples(lines));

  add('index [source]', 'Bring a build in: a folder or an archive. Without SOURCE, its last one again.', [
    'index /games/build-1.2 --title "Mossline Ferry" --build 1.2 --date 2026-05-01',
    'index game.zip --title "Mossline Ferry" --build 1.3 --without "*.log" --key 4',
  ])
    .addOption(titleOption())
    .addOption(needed('--build <label>', 'how the build is called'))
    .addOption(channelOption())
    .option('--date <iso>', 'when the build was released')
    .option('--replace', 'take the place of a build of this name')
    .addOption(listOption('--only <glob>', 'read only archives and folders that match; may be repeated'))
    .addOption(listOption('--without <glob>', 'leave out what matches; may be repeated'))
    .option('--all', 'read all, whatever was chosen for the build before')
    .addOption(listOption('--key <number>', 'try only this key of the keyring; may be repeated'))
    .option('--root <folder>', 'where the files of the game begin')
    .option('--platform <name>', 'the platform that the build is for')
    .addOption(countOption('--threads <count>', 'threads that read', 1, 256))
    .addOption(countOption('--priority <number>', 'its place in the queue; higher comes first', -9, 9))
    .option('--arrive', 'return once the build is there; its facts are read by the server')
    .option(...jsonFlag)
    .action(async (source: string | undefined, options: IndexOptions) =>
      (await import('./index-command.ts')).indexCommand(source, options),
    );

  add('look <source>', 'List what lies where in a folder or an archive, without reading it.', [
    'look /games/build-1.2',
    'look game.zip --json',
  ])
    .option(...jsonFlag)
    .action(async (source: string, options: { json?: boolean }) =>
      (await import('./look-command.ts')).lookCommand(source, options),
    );

  program
    .command('convert <file...>')
    .description('Write single files in another format, without a title, and read them again.')
    .addOption(
      needed(
        '--to <format>',
        'png, tga, webp, jpeg, exr; glb, gltf, obj, stl, ply, 3mf; wav, flac, ogg, opus; json, csv, po',
      ),
    )
    .option('--out <folder>', 'where to (default: the folder that you are in)')
    .addOption(new Option('--unit <unit>', 'of models').choices(['metres', 'centimetres', 'millimetres']))
    .addOption(new Option('--up <axis>', 'which axis of models points up').choices(['Y', 'Z']))
    .addOption(
      new Option('--placed <where>', 'where unit and axis are').choices(['in the data', 'in a root node']),
    )
    .addOption(
      new Option('--helpers <what>', 'shapes that nobody sees in the game').choices(['left out', 'kept']),
    )
    .addOption(new Option('--levels <which>', 'mip levels of pictures').choices(['finest', 'all']))
    .addOption(new Option('--green <direction>', 'green of normal maps').choices(['kept', 'turned']))
    .addOption(new Option('--crop <by>', 'cut borders of pictures off').choices(['alpha', 'colour']))
    .addOption(new Option('--scale <factor>', 'of pictures').argParser(Number))
    .addOption(countOption('--quality <number>', 'of JPEG', 1, 100))
    .addOption(new Option('--bits <count>', 'of WAV and FLAC').choices(['as decoded', '16', '24']))
    .addOption(listOption('--set <setting>', 'any other of a haul, such as print.bedMm=120; may be repeated'))
    .option(...jsonFlag)
    .addHelpText(
      'after',
      examples([
        'convert boat.dae --to glb --out taken',
        'convert *.dds --to png',
        'convert horn.wav --to flac',
        'convert ferry.glb --to 3mf --unit millimetres --set print.solid="one solid" --set print.sizeMm=450 --set print.bedMm=120',
      ]),
    )
    .action(async (files: string[], options: ConvertOptions) =>
      (await import('./convert-command.ts')).convertCommand(files, options),
    );

  program
    .command('put-back <source>')
    .description(
      'Put changed files into a copy of a folder, a ZIP, a TAR, or a container that a sheet describes, under exactly the names that are there.',
    )
    .addOption(needed('--with <folder>', 'the files, by the paths that they have in the source'))
    .addOption(needed('--out <copy>', 'the copy, which is not there yet'))
    .option(...jsonFlag)
    .option('--sheet <files...>', 'format sheets, one of which describes the container')
    .option('--title <name>', 'the game whose sheets describe it')
    .option('--sisters', 'make other levels and sizes of what was changed anew, too')
    .option('--data <folder>', 'the data folder')
    .addHelpText(
      'after',
      examples([
        'put-back data/props.zip --with changed --out props-new.zip',
        'put-back reeds.mlpk --sheet marsh-pack.yaml --with changed --out reeds-new.mlpk',
        'put-back reeds.mlpk --title "Mossline Ferry" --with changed --out reeds-new.mlpk',
      ]),
    )
    .action(async (source: string, options: PutBackOptions) =>
      (await import('./put-back-command.ts')).putBackCommand(source, options),
    );

  const haul = program.command('haul').description('Take assets out together, in open formats.');
  const addHaulVerb = (name: string, description: string, lines: readonly string[]): Command =>
    haul
      .command(name)
      .description(description)
      .option('--data <folder>', 'the data folder')
      .option('--title <name>', 'the game')
      .addOption(channelOption())
      .option(...jsonFlag)
      .addHelpText('after', examples(lines));
  const withChoice = (command: Command): Command =>
    command
      .option('--build <label>', 'the build (default: the newest)')
      .option('--name <text>', 'what players call it: all that belongs to it')
      .option('--search <query>', 'all that a search finds')
      .option('--haul <name>', 'what was collected under this name')
      .option('--profile <name>', 'settings that are kept by name')
      .addOption(listOption('--set <setting>', 'such as models.as=obj or pictures.as=tga; may be repeated'));
  addHaulVerb('list', 'Print the hauls of a channel.', ['haul list --title "Mossline Ferry"']).action(
    async (options: HaulOptions) => (await import('./haul-command.ts')).listHaulsCommand(options),
  );
  withChoice(
    addHaulVerb('plan', 'Print what would come out, and write nothing.', [
      'haul plan --title "Mossline Ferry" --search kind:picture --set pictures.as=tga',
    ]),
  ).action(async (options: HaulOptions) => (await import('./haul-command.ts')).planHaulCommand(options));
  withChoice(
    addHaulVerb('run [record]', 'Write a haul to a folder, or do again what a haul.json tells of.', [
      'haul run --title "Mossline Ferry" --name "Pier lantern" --out lantern',
      'haul run lantern/haul.json --out again',
    ]),
  )
    .option('--out <folder>', 'where to: an empty folder, or a new one')
    .action(async (record: string | undefined, options: HaulOptions) =>
      (await import('./haul-command.ts')).runHaulCommand(record, options),
    );

  const key = program.command('key').description('Keep the keys of locked archives.');
  const addKeyVerb = (name: string, description: string, lines: readonly string[]): Command =>
    key
      .command(name)
      .description(description)
      .option('--data <folder>', 'the data folder')
      .option(...jsonFlag)
      .addHelpText('after', examples(lines));
  addKeyVerb('add', 'Take a key from standard input, where no history and no list of processes shows it.', [
    'key add --title "Mossline Ferry" < key.txt',
    'key add --title "Mossline Ferry" --build 1.2 --form hex --remark "from the launcher"',
  ])
    .addOption(titleOption())
    .addOption(listOption('--build <label>', 'a build that it is for (default: all); may be repeated'))
    .addOption(new Option('--form <form>', 'how it is written').choices(['passphrase', 'hex', 'base64']))
    .option('--remark <text>', 'where it is from')
    .option('--keep', 'keep it even where it opens nothing yet')
    .action(async (options: AddKeyOptions) => (await import('./key-command.ts')).addKeyCommand(options));
  addKeyVerb('list', 'List the keys, and what is locked.', ['key list']).action(async (options: KeyOptions) =>
    (await import('./key-command.ts')).listKeysCommand(options),
  );
  addKeyVerb('remove <number>', 'Remove a key. What it opened stays as it is.', ['key remove 4']).action(
    async (number: string, options: KeyOptions) =>
      (await import('./key-command.ts')).removeKeyCommand(number, options),
  );

  add('diff', 'Print what is new and what changed between two builds.', [
    'diff --title "Mossline Ferry" --from 1.1 --to 1.2',
    'diff --title "Mossline Ferry" --from 1.1 --to 1.2 --evidence --json',
  ])
    .addOption(titleOption())
    .addOption(needed('--from <label>', 'the older build'))
    .addOption(needed('--to <label>', 'the newer build'))
    .addOption(channelOption())
    .option('--evidence', 'compare contents, and say how each differs')
    .option(...jsonFlag)
    .action(async (options: DiffOptions) => (await import('./diff-command.ts')).diffCommand(options));

  add('report', 'Write the news of an update.', [
    'report --title "Mossline Ferry" --from 1.1 --to 1.2 > news.md',
    'report --title "Mossline Ferry" --from 1.1 --to 1.2 --format html > news.html',
  ])
    .addOption(titleOption())
    .addOption(needed('--from <label>', 'the older build'))
    .addOption(needed('--to <label>', 'the newer build'))
    .addOption(channelOption())
    .addOption(
      new Option('--format <format>', 'how it is written').choices(['md', 'json', 'html']).default('md'),
    )
    .action(async (options: ReportOptions) => (await import('./report-command.ts')).reportCommand(options));

  add('search <query...>', 'Search assets by words, kinds and figures.', [
    'search --title "Mossline Ferry" heron kind:model triangles:">1000"',
    'search --title "Mossline Ferry" --build 1.2 lantern ext:png --json',
  ])
    .addOption(titleOption())
    .option('--build <label>', 'in this build only')
    .option('--channel <name>', 'in this channel only')
    .option(...jsonFlag)
    .action(async (query: string[], options: SearchOptions) =>
      (await import('./search-command.ts')).searchCommand(query, options),
    );

  const lexicon = program.command('lexicon').description('Write the lexicon of a title out, or read one in.');
  const addLexiconVerb = (name: string, description: string, lines: readonly string[]): Command =>
    lexicon
      .command(name)
      .description(description)
      .addOption(titleOption())
      .option('--data <folder>', 'the data folder')
      .addHelpText('after', examples(lines));
  addLexiconVerb('export', 'Write the lexicon to standard output.', [
    'lexicon export --title "Mossline Ferry" > names.csv',
  ])
    .addOption(new Option('--form <form>', 'how it is written').choices(['csv', 'json']).default('csv'))
    .action(async (options: ExportLexiconOptions) =>
      (await import('./lexicon-command.ts')).exportLexiconCommand(options),
    );
  addLexiconVerb('import <file>', 'Read entries in: all of a file, or nothing of it.', [
    'lexicon import names.csv --title "Mossline Ferry"',
  ]).action(async (file: string, options: LexiconOptions) =>
    (await import('./lexicon-command.ts')).importLexiconCommand(file, options),
  );

  const format = program
    .command('format')
    .description('Describe a game’s own formats by sheets, and try these on files.');
  format
    .command('try <sheet> <files...>')
    .description(
      'Try a sheet on files: what comes of them, or where they do not fit. Ends with 1 where one does not.',
    )
    .option('--sheet-version <name>', 'the version of the format to begin with (default: the newest)')
    .option(...jsonFlag)
    .addHelpText(
      'after',
      examples(['format try texture.yaml heron.rtex', 'format try texture.yaml *.rtex --json']),
    )
    .action(async (sheet: string, files: string[], options: TryFormatOptions) =>
      (await import('./format-command.ts')).tryFormatCommand(sheet, files, options),
    );

  format
    .command('guess <files...>')
    .description(
      'Say what the bytes of unknown files of one format tell of it, with the fields of a sheet to begin with.',
    )
    .option('--before <files...>', 'the same files in an older build: how the format changed since')
    .option(...jsonFlag)
    .addHelpText(
      'after',
      examples(['format guess data/*.rmesh', 'format guess new/*.rmesh --before old/*.rmesh']),
    )
    .action(async (files: string[], options: GuessOptions) =>
      (await import('./format-guess-command.ts')).guessFormatCommand(files, options),
    );
  format
    .command('schema')
    .description('Print the JSON schema of format sheets, for editors.')
    .addHelpText('after', examples(['format schema > sheet.schema.json']))
    .action(async () => (await import('./format-command.ts')).formatSchemaCommand());
  format
    .command('words')
    .description('List the functions, packings and pixel formats that a sheet can name.')
    .addHelpText('after', examples(['format words']))
    .action(async () => (await import('./format-command.ts')).formatWordsCommand());
  const addFormatVerb = (name: string, description: string, lines: readonly string[]): Command =>
    format
      .command(name)
      .description(description)
      .addOption(titleOption())
      .option('--data <folder>', 'the data folder')
      .option(...jsonFlag)
      .addHelpText('after', examples(lines));
  addFormatVerb('import <file>', 'Keep a sheet with a title, and read what it describes in all builds.', [
    'format import texture.yaml --title "Mossline Ferry"',
  ]).action(async (file: string, options: SheetOptions) =>
    (await import('./format-sheets-command.ts')).importSheetCommand(file, options),
  );
  addFormatVerb('export <name>', 'Write a sheet to standard output.', [
    'format export "Reed texture" --title "Mossline Ferry" > texture.yaml',
  ]).action(async (name: string, options: SheetOptions) =>
    (await import('./format-sheets-command.ts')).exportSheetCommand(name, options),
  );
  addFormatVerb('remove <name>', 'Remove a sheet. What it read is what its bytes say again.', [
    'format remove "Reed texture" --title "Mossline Ferry"',
  ]).action(async (name: string, options: SheetOptions) =>
    (await import('./format-sheets-command.ts')).removeSheetCommand(name, options),
  );
  addFormatVerb('list', 'List the sheets of a title.', ['format list --title "Mossline Ferry"']).action(
    async (options: SheetOptions) => (await import('./format-sheets-command.ts')).listSheetsCommand(options),
  );
  addFormatVerb('fit <file>', 'Try a sheet on all files of a build that it is for.', [
    'format fit texture.yaml --title "Mossline Ferry" --build 1.2',
  ])
    .addOption(needed('--build <label>', 'the build'))
    .addOption(channelOption())
    .action(async (file: string, options: FitOptions) =>
      (await import('./format-sheets-command.ts')).fitSheetCommand(file, options),
    );
  addFormatVerb(
    'version <name>',
    'Tell or say which version of a sheet the files of a build are tried with first.',
    [
      'format version "Reed model" --title "Mossline Ferry" --build 0.4 --use 3',
      'format version "Reed model" --title "Mossline Ferry" --build 0.4 --newest',
    ],
  )
    .addOption(needed('--build <label>', 'the build'))
    .addOption(channelOption())
    .option('--use <version>', 'the version')
    .option('--newest', 'the newest one first, as where nobody says')
    .action(async (name: string, options: VersionOptions) =>
      (await import('./format-sheets-command.ts')).sheetVersionCommand(name, options),
    );

  addNoteCommands(program);

  add('publish', 'Publish an edition of the catalogue: a folder of static files, signed.', [
    'publish --title "Mossline Ferry" --out /srv/site',
    'publish --title "Mossline Ferry" --out site --zip site.zip',
    'publish --title "Mossline Ferry" --out site --and-then "rsync -a ./ server:/srv/site/"',
    'publish --title "Mossline Ferry" --out site --back-to 3',
  ])
    .addOption(titleOption())
    .addOption(needed('--out <folder>', 'where the site goes'))
    .option('--zip <file>', 'write it as one file, too')
    .option('--and-then <command>', 'run this in the folder afterwards; WORVEL_SITE names the folder')
    .addOption(countOption('--back-to <edition>', 'publish the state of this edition again', 1, 1_000_000))
    .option(...jsonFlag)
    .action(async (options: PublishOptions) =>
      (await import('./publish-command.ts')).publishCommand(options),
    );
  program
    .command('verify <folder>')
    .description('Check an edition: its signature, and every file. Ends with 1 where something is wrong.')
    .option(...jsonFlag)
    .addHelpText('after', examples(['verify /srv/site']))
    .action(async (folder: string, options: { json?: boolean }) =>
      (await import('./publish-command.ts')).verifyCommand(folder, options),
    );

  add('remove', 'Remove a build, and free what no other build holds.', [
    'remove --title "Mossline Ferry" --build 1.1',
  ])
    .addOption(titleOption())
    .addOption(needed('--build <label>', 'the build'))
    .addOption(channelOption())
    .option(...jsonFlag)
    .action(async (options: RemoveOptions) => (await import('./remove-command.ts')).removeCommand(options));

  add('check', 'Check that every content is whole. Ends with 1 where something is broken.', ['check'])
    .option(...jsonFlag)
    .action(async (options: CheckOptions) => (await import('./check-command.ts')).checkCommand(options));

  add('audit', 'Print who changed what in a title, and check its seals. Ends with 1 where one is broken.', [
    'audit --title "Mossline Ferry"',
    'audit --title "Mossline Ferry" --json > audit.jsonl',
  ])
    .addOption(titleOption())
    .option(...jsonFlag)
    .action(async (options: AuditOptions) => (await import('./audit-command.ts')).auditCommand(options));

  add('backup <folder>', 'Write all that lasts into an empty folder, while people work.', [
    'backup /backups/2026-12-01',
  ]).action(async (folder: string, options: CommonOptions) =>
    (await import('./backup-command.ts')).backupCommand(folder, options),
  );

  add('restore <folder>', 'Make a new data folder of a backup. A damaged one changes nothing.', [
    'restore /backups/2026-12-01 --data /srv/worvel',
  ]).action(async (folder: string, options: CommonOptions) =>
    (await import('./backup-command.ts')).restoreCommand(folder, options),
  );

  add('work', 'Work off the queue beside the server, until Ctrl-C.', [
    'work --data /mnt/shared/worvel',
  ]).action(async (options: CommonOptions) => (await import('./work-command.ts')).workCommand(options));

  add('serve', 'Serve the application on this machine, until Ctrl-C.', ['serve --port 4400'])
    .addOption(countOption('--port <number>', 'the port', 1, 65_535).default(4310))
    .action(async (options: ServeOptions) => (await import('./serve-command.ts')).serveCommand(options));

  add('demo', 'Make the builds of an invented game, and serve them.', ['demo', 'demo publish'])
    .argument('[publish]', 'have its depot publish the next build')
    .addOption(countOption('--port <number>', 'the port', 1, 65_500).default(4310))
    .action(async (verb: string | undefined, options: ServeOptions) =>
      (await import('./demo-command.ts')).demoCommand(verb, options),
    );

  add('bench', 'Measure against a general-purpose program that does the same work.', [
    'bench index --json',
    'bench all --only read',
  ])
    .argument('<name>', `one of ${benchNames.join(', ')}; or all, which writes docs/benchmarks.md`)
    .option(...jsonFlag)
    .option('--quick', 'with “all”: a little of everything, within wide limits')
    .addOption(listOption('--only <name>', 'with “all”: this one; may be given more than once'))
    .action(async (name: string, options: BenchOptions) =>
      (await import('./bench-command.ts')).benchCommand(name, options),
    );

  // The launcher carries it out: it installs what tests need first.
  program.command('test [pattern]').description('Run the tests, or those whose names match.');
  return program;
}
