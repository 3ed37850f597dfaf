import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { zipSync } from 'fflate';
import type { Title } from '../contract/builds.ts';
import type { SeenSource } from '../contract/look.ts';
import { leavesOf, run } from './support/leaves.ts';
import { TestHouse } from './support/worvel.ts';

const text = (words: string): Uint8Array => new TextEncoder().encode(words);

/** What is brought in of a source, and what is said of the rest. */
describe('Reading settings', () => {
  const house = new TestHouse();
  const put = (path: string, bytes: Uint8Array): void => {
    mkdirSync(dirname(house.path(path)), { recursive: true });
    writeFileSync(house.path(path), bytes);
  };
  const pathsOf = async (title: string, build: string): Promise<string[]> =>
    (await leavesOf(house, title, build)).map((leaf) => leaf.split(' ')[0] ?? '');
  const settingsOf = async (title: string, label: string) => {
    const titles = (await (await fetch(`${await url()}/api/titles`)).json()) as Title[];
    const builds = titles.find(({ name }) => name === title)?.channels.flatMap((channel) => channel.builds);
    return builds?.find((build) => build.label === label);
  };
  let served: Promise<string> | null = null;
  const url = (): Promise<string> => (served ??= house.serve(house.port));

  before(async () => {
    await house.open();
    await url();
    const props = zipSync({
      'lamps/lamp.txt': text('lamp'),
      'boats/boat.txt': text('boat'),
      'inner.zip': [zipSync({ 'x.txt': text('x') }), { level: 0 }],
    });
    put('install/Ferry/game/data/props.zip', props);
    put('install/Ferry/game/data/voice.zip', zipSync({ 'a.txt': text('a'), 'b.txt': text('b') }));
    put('install/Ferry/game/text/read.txt', text('read me'));
    put('install/Ferry/game/text/de/read.txt', text('lies mich'));
  });
  after(() => house.close());

  it('finds the content root: the lowest folder that holds everything', async () => {
    await house.index(house.path('install'), 'Root', '1');
    expect(await pathsOf('Root', '1')).to.deep.equal([
      'data/props.zip!/boats/boat.txt',
      'data/props.zip!/inner.zip!/x.txt',
      'data/props.zip!/lamps/lamp.txt',
      'data/voice.zip!/a.txt',
      'data/voice.zip!/b.txt',
      'text/de/read.txt',
      'text/read.txt',
    ]);
    // The next build has a file beside it: the root is the one of the build before all the same.
    put('second/Ferry/game/data/voice.zip', zipSync({ 'a.txt': text('a') }));
    put('second/Ferry/game/text/read.txt', text('read me'));
    put('second/licence.txt', text('beside'));
    run('mkdir', ['-p', 'third'], house.root);
    await house.index(house.path('second'), 'Root', '2', '--root', 'Ferry/game');
    expect(await pathsOf('Root', '2')).to.deep.equal(['data/voice.zip!/a.txt', 'text/read.txt']);
    await house.index(house.path('second'), 'Root', '3');
    expect((await house.diff('Root', '2', '3')).findings).to.deep.equal([]);
  });

  it('gives a found root up when something lies beside it, and keeps one that a person chose', async () => {
    put('grown/game/a.txt', text('a'));
    await house.index(house.path('grown'), 'Grown', '1');
    expect(await pathsOf('Grown', '1')).to.deep.equal(['a.txt']);
    put('grown/game/sub/b.txt', text('b'));
    await house.index(house.path('grown'), 'Grown', '2');
    expect(await pathsOf('Grown', '2')).to.deep.equal(['a.txt', 'sub/b.txt']);
    put('grown/extra/c.txt', text('c'));
    await house.index(house.path('grown'), 'Grown', '3');
    expect(await pathsOf('Grown', '3')).to.deep.equal(['extra/c.txt', 'game/a.txt', 'game/sub/b.txt']);
    expect((await house.diff('Grown', '2', '3')).summary).to.include({ added: 1, moved: 2, removed: 0 });
    await house.index(house.path('grown'), 'Grown', '4', '--root', 'game');
    put('grown/more/d.txt', text('d'));
    await house.index(house.path('grown'), 'Grown', '5');
    expect(await pathsOf('Grown', '5')).to.deep.equal(['a.txt', 'sub/b.txt']);
  });

  it('finds it within an archive too, compressed as a whole or not', async () => {
    run('tar', ['-czf', '../ferry.tar.gz', 'Ferry'], house.path('install'));
    run('zip', ['-qr', '../ferry.zip', 'Ferry'], house.path('install'));
    await house.index(house.path('ferry.tar.gz'), 'In TAR', '1');
    await house.index(house.path('ferry.zip'), 'In ZIP', '1');
    expect(await pathsOf('In TAR', '1')).to.deep.equal(await pathsOf('Root', '1'));
    expect(await pathsOf('In ZIP', '1')).to.deep.equal(await pathsOf('Root', '1'));
  });

  it('leaves out what is not wanted, and never says that it was removed', async () => {
    const title = 'Choice';
    await house.index(house.path('install'), title, '1');
    const second = await house.index(
      house.path('install'),
      title,
      '2',
      '--without',
      'voice.zip',
      '--without',
      'text/de',
    );
    expect(second).to.include({ leftOutFiles: 2, files: 4 });
    expect(second.leftOutBytes).to.be.greaterThan(200);
    const { findings, summary } = await house.diff(title, '1', '2');
    expect(findings).to.deep.equal([]);
    expect(summary.leftOut).to.equal(3);
    // Nor that it is new, when it is wanted again: what the build between has is not known.
    const third = await house.index(house.path('install'), title, '3', '--all');
    expect(third).to.include({ leftOutFiles: 0, files: 7, newContents: 0 });
    expect((await house.diff(title, '2', '3')).findings).to.deep.equal([]);
    expect((await house.diff(title, '1', '3')).findings).to.deep.equal([]);
  });

  it('says what really changed beside what is left out', async () => {
    const title = 'Both';
    await house.index(house.path('install'), title, '1');
    put('changed/data/props.zip', zipSync({ 'lamps/lamp.txt': text('another lamp') }));
    put('changed/text/de/read.txt', text('lies mich'));
    await house.index(
      house.path('changed'),
      title,
      '2',
      '--root',
      '',
      '--only',
      'data/**',
      '--only',
      'text/de',
    );
    const { findings } = await house.diff(title, '1', '2');
    expect(findings.map(({ status, path }) => `${status} ${path}`)).to.deep.equal([
      'removed data/props.zip!/boats/boat.txt',
      'removed data/props.zip!/inner.zip!/x.txt',
      'changed data/props.zip!/lamps/lamp.txt',
      'removed data/voice.zip!/a.txt',
      'removed data/voice.zip!/b.txt',
    ]);
  });

  it('copies source and settings from the build before: a new one takes its label', async () => {
    const title = 'Copied';
    await house.indexByCommand(
      house.path('install'),
      title,
      '1',
      '--without',
      '*.zip',
      '--platform',
      'desktop',
      '--date',
      '2026-03-01T00:00:00Z',
    );
    const { code, output, errors } = await house.run('index', '--title', title, '--build', '2', '--json');
    expect(code, errors).to.equal(0);
    expect(JSON.parse(output)).to.include({ files: 2, leftOutFiles: 2 });
    const build = await settingsOf(title, '2');
    expect(build?.source).to.equal(house.path('install'));
    expect(build?.settings).to.deep.equal({
      platform: 'desktop',
      contentRoot: 'Ferry/game',
      formatVersions: {},
      isRootFound: true,
      choice: { only: [], without: ['*.zip'] },
      keys: null,
    });
    const none = await house.run('index', '--title', 'Nothing yet', '--build', '1');
    expect(none.code).to.equal(1);
    expect(none.errors).to.include('has no build yet');
  });

  it('takes an archive of its own into a build again when the choice has changed', async () => {
    const title = 'Changed choice';
    await house.index(house.path('install'), title, '1', '--without', 'lamps');
    expect(await pathsOf(title, '1')).to.not.include('data/props.zip!/lamps/lamp.txt');
    await house.index(house.path('install'), title, '2', '--all');
    expect(await pathsOf(title, '2')).to.include('data/props.zip!/lamps/lamp.txt');
  });

  it('refuses a glob that is no glob before anything is done', async () => {
    const answer = await house.run(
      'index',
      house.path('install'),
      '--title',
      'Odd',
      '--build',
      '1',
      '--only',
      'x'.repeat(70_000),
    );
    expect(answer.code).to.not.equal(0);
  });

  it('looks into a source without reading it', async () => {
    const { output } = await house.run('look', house.path('install'), '--json');
    const seen = JSON.parse(output) as SeenSource;
    expect(seen).to.include({ kind: 'folder', contentRoot: 'Ferry/game', files: 4 });
    expect(
      seen.containers.map(({ path, format, entries, lock }) => ({ path, format, entries, lock })),
    ).to.deep.equal([
      { path: 'data/props.zip', format: 'zip', entries: 3, lock: 'open' },
      { path: 'data/voice.zip', format: 'zip', entries: 2, lock: 'open' },
      { path: 'data/props.zip!/inner.zip', format: 'zip', entries: 1, lock: 'open' },
    ]);
    expect(seen.folders.map(({ path }) => path)).to.have.members(['data', 'text', 'text/de']);
    const told = await house.run('look', house.path('install'));
    expect(told.output).to.include('data/props.zip');
    expect((await house.run('look', house.path('nowhere'))).errors).to.include('does not exist');
  });

  it('tells what is locked, and in which archives', async () => {
    mkdirSync(house.path('locks'));
    run('7zz', ['a', '-tzip', '-pword', 'locks/all.zip', 'install'], house.root);
    run('7zz', ['a', '-mhe=on', '-pword', 'locks/hidden.7z', 'install'], house.root);
    run('7zz', ['a', '-pword', 'locks/names.7z', 'install'], house.root);
    run('zip', ['-q', 'locks/part.zip', 'install/Ferry/game/text/read.txt'], house.root);
    run('zip', ['-q', '-P', 'word', 'locks/part.zip', 'install/Ferry/game/text/de/read.txt'], house.root);
    const { output } = await house.run('look', house.path('locks'), '--json');
    const { containers } = JSON.parse(output) as SeenSource;
    expect(Object.fromEntries(containers.map(({ path, lock }) => [path, lock]))).to.deep.equal({
      'all.zip': 'locked',
      'hidden.7z': 'locked',
      'names.7z': 'locked',
      'part.zip': 'partly locked',
    });
  });
});
