import { expect } from 'chai';
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createProgram } from '../cli/program.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { sign } from '../demo/pictures.ts';
import { TestHouse, type Outcome } from './support/worvel.ts';

/** The commands as people call them: help, mistakes, completion, and the same answers with and without a server. */
describe('The command line', () => {
  const house = new TestHouse();
  before(async () => {
    await house.open();
    for (const build of ['1', '2']) {
      mkdirSync(house.path(build, 'birds'), { recursive: true });
      writeFileSync(house.path(build, 'birds', 'gru_white.txt'), `the white heron of build ${build}`);
      writeFileSync(house.path(build, 'birds', 'gru_grey.txt'), 'the grey heron');
      writeFileSync(
        house.path(build, 'lamp.png'),
        await sign('lamp', 40, [90, 80, 40 + Number(build)], 'png'),
      );
    }
    writeFileSync(house.path('2', 'reed.json'), '{"reed": 1}');
    for (const build of ['1', '2']) await house.index(house.path(build), 'Herons', build);
  });
  after(() => house.close());

  /** Without a data folder: what needs none. */
  const run = (...args: string[]): Outcome => {
    const { status, stdout, stderr } = spawnSync(
      process.execPath,
      [join(applicationRoot, 'dist', 'node', 'cli.js'), ...args],
      { encoding: 'utf8' },
    );
    return { code: status ?? -1, output: stdout, errors: stderr };
  };
  const title = ['--title', 'Herons'];
  const span = [...title, '--from', '1', '--to', '2'];

  it('says its version, and helps with each command, with examples', () => {
    const { version } = JSON.parse(readFileSync(join(applicationRoot, 'package.json'), 'utf8')) as {
      version: string;
    };
    expect(run('--version')).to.deep.equal({ code: 0, output: `${version}\n`, errors: '' });
    const commands = createProgram().commands.flatMap((command) =>
      command.commands.length > 0
        ? command.commands.map((inner) => [command.name(), inner.name()])
        : [[command.name()]],
    );
    expect(commands.length).to.be.greaterThan(15);
    for (const command of commands) {
      if (command[0] === 'test') continue;
      const { code, output } = run(...command, '--help');
      expect(code, command.join(' ')).to.equal(0);
      expect(output, command.join(' '))
        .to.include('Examples:\n')
        .and.include(`worvel ${command.join(' ')}`);
    }
    expect(run('help', 'diff').output).to.equal(run('diff', '--help').output);
    expect(run().code).to.equal(2);
  });

  it('says what is wrong with a call, and what was probably meant, with exit code 2', () => {
    const wrong = (...args: string[]): string => {
      const { code, output, errors } = run(...args);
      expect([code, output], args.join(' ')).to.deep.equal([2, '']);
      return errors;
    };
    expect(wrong('idnex')).to.include('(Did you mean index?)');
    expect(wrong('diff', ...span, '--evidnece')).to.include('(Did you mean --evidence?)');
    expect(wrong('key', 'lst')).to.include('(Did you mean list?)');
    expect(wrong('diff', ...title, '--from', '1')).to.include("required option '--to <label>' not specified");
    expect(wrong('report', ...span, '--format', 'pdf')).to.include('Allowed choices are md, json, html');
    expect(wrong('serve', '--port', '70000')).to.include('a whole number from 1 to 65535');
    expect(wrong('index', 'x', '--title', ' ', '--build', '1')).to.include('must not be empty');
    expect(wrong('look', 'a', 'b')).to.include('too many arguments');
    expect(wrong('bench', 'sleep')).to.include('There is no benchmark sleep');
    expect(wrong('demo', 'publsh')).to.include('comes nothing, or publish');
    expect(wrong('search', ...title, 'kind:modl')).to.include('“modl” is no kind');
    expect(wrong('key', 'remove', 'x')).to.include('is no number of a key');
  });

  it('completes commands, options and choices, by scripts that the shells can read', () => {
    for (const shell of ['bash', 'zsh', 'fish']) {
      const { code, output } = run('completion', shell);
      expect(code, shell).to.equal(0);
      expect(output).to.include('worvel complete');
    }
    execFileSync('bash', ['-n'], { input: run('completion', 'bash').output });
    const completed = (...words: string[]): string[] =>
      run('complete', '--', ...words)
        .output.split('\n')
        .flatMap((line) => (line.startsWith(':') || line === '' ? [] : [line.split('\t')[0] ?? '']));
    expect(completed('ind')).to.deep.equal(['index']);
    expect(completed('diff', '--ev')).to.deep.equal(['--evidence']);
    expect(completed('report', '--format', '')).to.deep.equal(['md', 'json', 'html']);
    expect(completed('key', '')).to.include.members(['add', 'list', 'remove']);
    expect(run('completion', 'tcsh').code).to.equal(2);
  });

  it('answers the same with a server and without one', async () => {
    writeFileSync(house.path('names.csv'), 'part,role,meaning\ngru,code name,heron\n');
    const calls: string[][] = [
      ['diff', ...span],
      ['diff', ...span, '--json'],
      ['diff', ...span, '--evidence', '--json'],
      ['report', ...span],
      ['report', ...span, '--format', 'json'],
      ['search', ...title, 'heron'],
      ['search', ...title, '--build', '1', 'kind:text', '--json'],
      ['search', ...title, 'size:>1', '--channel', 'main'],
      ['lexicon', 'export', ...title],
      ['lexicon', 'export', ...title, '--form', 'json'],
      ['key', 'list', '--json'],
      ['check', '--json'],
      // What goes wrong is said in the same words.
      ['diff', ...title, '--from', '1', '--to', '9'],
      ['diff', '--title', 'Nobody', '--from', '1', '--to', '2'],
      ['search', '--title', 'Nobody', 'x'],
      ['search', ...title, '--channel', 'nightly', 'x'],
      ['remove', ...title, '--build', '9'],
      ['index', house.path('1'), ...title, '--build', '1'],
      ['index', '/nowhere/at/all', ...title, '--build', '3'],
      ['key', 'remove', '77'],
    ];
    expect((await house.run('lexicon', 'import', house.path('names.csv'), ...title)).code).to.equal(0);
    // Compared once: afterwards there is nothing left to show progress of.
    await house.run('diff', ...span, '--evidence');
    const alone: Outcome[] = [];
    for (const call of calls) alone.push(await house.run(...call));
    await house.serve(house.port);
    for (const [at, call] of calls.entries()) {
      const served = await house.run(...call);
      const plain = ({ code, output, errors }: Outcome): unknown => ({
        code,
        // When a report was written is not the same, and how much was read by then neither.
        output: output.replace(/\d{4}-\d\d-\d\dT[\d:.]+Z/g, 'then'),
        errors: errors.replace(/^checking contents: .*\n/gm, ''),
      });
      expect(plain(served), call.join(' ')).to.deep.equal(
        plain(alone[at] ?? { code: -1, output: '', errors: '' }),
      );
    }
    expect(alone[5]?.output).to.include('gru_white.txt');
    expect(JSON.parse(alone[1]?.output.trimEnd().split('\n').at(-1) ?? '')).to.have.property('summary');
    await house.stopServer();
  });

  it('reads a query with a minus after two hyphens, as programs do', async () => {
    const { output } = await house.run('search', ...title, '--', 'gru', '-white');
    expect(output).to.include('gru_grey.txt').and.not.include('gru_white.txt');
  });
});
