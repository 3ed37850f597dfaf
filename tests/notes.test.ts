import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { getJson, type Connection } from '../cli/connection.ts';
import {
  noteRemarksSchema,
  noteRevisionsSchema,
  noteRunSchema,
  noteSchema,
  noteStepsSchema,
  type Note,
  type NoteRun,
  type NoteStep,
} from '../contract/notes.ts';
import { jobSchema } from '../contract/work.ts';
import { stepsToKeep } from '../core/notes/steps-to-keep.ts';
import { firstNotes } from '../demo/first-notes.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { correctFamilies } from '../server/library/families/corrections.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { change } from '../server/platform/database/rows.ts';
import { putDemoBuild } from './support/demo-builds.ts';
import { TestHouse } from './support/worvel.ts';

const title = 'Mossline Ferry';
const channel = 1;

/** Notes as a script has them. */
class Notes {
  constructor(private readonly application: Connection) {}

  private query(path: string, more: Record<string, string> = {}): string {
    return String(new URLSearchParams({ channel: String(channel), path, ...more }));
  }
  read = async (path: string): Promise<Note> =>
    noteSchema.parse(await getJson(this.application, `notes?${this.query(path)}`));
  proposed = async (path: string, build: string, query = ''): Promise<NoteStep[]> =>
    noteStepsSchema.parse(
      await getJson(this.application, `notes/proposed?${this.query(path, { build, query })}`),
    );
  remarks = async (path: string): Promise<string[]> =>
    noteRemarksSchema
      .parse(await getJson(this.application, `notes/remarks?${this.query(path)}`))
      .map(({ text }) => text);
  revisions = async (path: string): Promise<string[]> =>
    noteRevisionsSchema
      .parse(await getJson(this.application, `notes/revisions?${this.query(path)}`))
      .flatMap(({ by, what }) => what.map((line) => `${by === '' ? 'somebody' : 'we'}: ${line}`));

  async save(path: string, steps: readonly NoteStep[], body = ''): Promise<Note> {
    const { revision } = await this.read(path);
    const request = { channel, path, body, steps, revision };
    return noteSchema.parse(await getJson(this.application, 'notes', { method: 'PUT', body: request }));
  }

  async run(path: string, build = '', folder = ''): Promise<NoteRun> {
    const begun = noteRunSchema.parse(
      await getJson(this.application, 'notes/runs', { body: { channel, path, build, folder } }),
    );
    for (const id of begun.jobs)
      await this.application.follow(
        jobSchema.parse(await getJson(this.application, `work/${id}`)),
        () => undefined,
      );
    return noteRunSchema.parse(await getJson(this.application, `notes/runs/${begun.id}`));
  }

  /** What came of each step: its verdict alone. */
  async verdicts(path: string, build = ''): Promise<string[]> {
    return (await this.run(path, build)).outcomes.map(({ verdict }) => verdict);
  }
}

/** Of the demo's first build, with what is to come of the steps find and take out on the second: by hand, from the generator. */
const assets: readonly (readonly [string, string, string])[] = [
  // It names a picture that the first build lacks, and the second has.
  ['models/boathouse/boathouse_l0.gltf', 'fits', 'differs'],
  ['music/crossing.wav', 'fits', 'fits'],
  ['data/models.zip!/props/lum/lum_bow_l0.glb', 'fits', 'fits'],
  ['data/models.zip!/birds/gru_grey.glb', 'differs', 'differs'],
  ['data/effects.zip!/bells/bell_fog.wav', 'differs', 'differs'],
  // Other bytes of the same pixels: a PNG is taken out with the bytes that it has.
  ['data/pictures.zip!/ground/moss_nrm.png', 'differs', 'differs'],
  ['data/models.zip!/birds/gru_young.glb', 'does not fit', 'does not fit'],
  ['ui/icons/sg_anchor.png', 'does not fit', 'does not fit'],
  ['maps/isle_old.json', 'does not fit', 'does not fit'],
  ['definitions/old_tolls.csv', 'does not fit', 'does not fit'],
];

describe('Notes that are run again', () => {
  const house = new TestHouse();
  const fresh = new TestHouse();
  let ours: Notes;
  let theirs: Notes;
  before(async () => {
    await house.open();
    await house.indexDemo();
    ours = new Notes(await house.connection());
    await fresh.open();
    await putDemoBuild('0.1', fresh.path('0.1'));
    await fresh.index(fresh.path('0.1'), title, '0.1');
    theirs = new Notes(await fresh.connection());
    for (const [path] of assets) {
      await ours.save(path, await ours.proposed(path, '0.1'));
      const { steps, outcomes } = await ours.run(path);
      await ours.save(path, stepsToKeep(steps, outcomes));
    }
  });
  after(async () => {
    await house.close();
    await fresh.close();
  });

  it('are offered as steps: the build, the place, and taking out, with sums after the first run', async () => {
    const { steps } = await ours.read('music/crossing.wav');
    expect(steps.map(({ does }) => does)).to.deep.equal(['bring in', 'find', 'take out']);
    const [bringIn, find, takeOut] = steps;
    expect(bringIn).to.include({ does: 'bring in', build: '0.1' });
    // By b3sum's algorithm through another implementation: the store's name of it.
    expect(find?.does === 'find' && find.blake3).to.match(/^[0-9a-f]{64}$/);
    if (takeOut?.does !== 'take out') throw new Error('no step takes it out');
    expect(takeOut.files.map(({ target }) => target)).to.deep.equal(['music/crossing.wav']);
    expect(await ours.remarks('music/crossing.wav')).to.deep.equal([]);
    expect(await ours.remarks('models/boathouse/boathouse_l0.gltf')).to.deep.equal([
      'deck_board_col.png is named and not in the build.',
    ]);
  });

  it('give the same bytes on the same build, in a data folder that never saw them', async () => {
    for (const [path] of assets) {
      const { body, steps } = await ours.read(path);
      await theirs.save(path, steps, body);
      const { outcomes } = await theirs.run(path);
      expect(
        outcomes.map(({ verdict, sentence }) => `${verdict} ${sentence}`),
        path,
      ).to.deep.equal([
        'fits Build 0.1 is here, brought in as the note says.',
        'fits It lies there.',
        `fits ${filesOf(steps)}, the same bytes by SHA-256.`,
      ]);
    }
  });

  it('write what sha256sum finds the same, too', async () => {
    const path = 'data/models.zip!/birds/gru_grey.glb';
    const folder = fresh.path('again');
    await theirs.run(path, '', folder);
    const files = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((name) =>
      name.endsWith('.glb'),
    );
    const printed = execFileSync('sha256sum', files, { cwd: folder, encoding: 'utf8' });
    const takeOut = (await ours.read(path)).steps.at(-1);
    expect(
      printed
        .trim()
        .split('\n')
        .map((line) => line.split(/\s+/)[0]),
    ).to.deep.equal(takeOut?.does === 'take out' ? takeOut.files.map(({ sha256 }) => sha256) : []);
  });

  it('of the demo give the same bytes, too, and fail on the next build where that changed them', async () => {
    const notes = firstNotes(applicationRoot);
    expect(notes).to.have.length(10);
    for (const { path, steps, body } of notes) {
      const former = await ours.read(path);
      await ours.save(path, steps, body);
      const { outcomes } = await ours.run(path);
      for (const { verdict, sentence } of outcomes) expect(verdict, `${path}: ${sentence}`).to.equal('fits');
      // Before it came, the heron was nowhere.
      if (path.endsWith('gru_white.glb'))
        expect(await ours.verdicts(path, '0.1')).to.deep.equal(['fits', 'does not fit', 'does not fit']);
      await ours.save(path, former.steps, former.body);
    }
  });

  it('say that a build is not here', async () => {
    const run = await theirs.run('music/crossing.wav', '0.2');
    for (const { verdict, sentence } of run.outcomes)
      expect(`${verdict}: ${sentence}`).to.equal(
        'does not fit: There is no build labelled 0.2 in this channel.',
      );
  });

  it('fail on the next build where it is to be expected, and nowhere else', async () => {
    const came: string[][] = [];
    for (const [path] of assets) came.push([path, ...(await ours.verdicts(path, '0.2'))]);
    expect(came).to.deep.equal(assets.map(([path, find, takeOut]) => [path, 'fits', find, takeOut]));
  });

  it('say where a thing has gone to, and are whole again with what is proposed', async () => {
    const path = 'data/models.zip!/birds/gru_young.glb';
    const { steps, outcomes } = await ours.run(path, '0.2');
    expect(outcomes[1]?.sentence).to.equal('It has moved to data/models.zip!/birds/young/gru_young.glb.');
    const next = stepsToKeep(steps, outcomes);
    const before = await ours.read(path);
    await ours.save(path, next);
    expect(await ours.verdicts(path)).to.deep.equal(['fits', 'fits', 'fits']);
    expect((await ours.revisions(path)).slice(0, 3)).to.deep.equal([
      'we: Step 1 was “Bring in build 0.1.” and is “Bring in build 0.2.”',
      `we: Step 2 was “Find ${path} in build 0.1.” and is “Find data/models.zip!/birds/young/gru_young.glb in build 0.2.”`,
      `we: Step 3 was “Take out ${path} of build 0.1.” and is “Take out data/models.zip!/birds/young/gru_young.glb of build 0.2.”`,
    ]);
    await ours.save(path, before.steps);
  });

  it('say which build had last what is gone', async () => {
    const { outcomes } = await ours.run('definitions/old_tolls.csv', '0.2');
    expect(outcomes[1]).to.include({
      verdict: 'does not fit',
      sentence: 'Build 0.2 has no definitions/old_tolls.csv; build 0.1 had it last.',
      proposed: null,
    });
  });

  it('find a search that finds other things by now', async () => {
    const path = 'music/crossing.wav';
    const steps = await ours.proposed(path, '0.1', 'crossing');
    const search = steps.find(({ does }) => does === 'search');
    expect(search).to.deep.include({ query: 'crossing', build: '0.1' });
    await ours.save('ui/icons/sg_anchor.png', [
      { does: 'search', build: '0.1', query: 'crossing', found: 99, words: '' },
    ]);
    const { outcomes } = await ours.run('ui/icons/sg_anchor.png');
    expect(outcomes[0]?.verdict).to.equal('does not fit');
    expect(outcomes[0]?.sentence).to.match(/^It finds \d+ assets?, where the note says 99\.$/);
  });

  it('tell what was corrected, and notice where it is not said any more', async () => {
    const path = 'data/models.zip!/props/lum/lum_bow_l0.glb';
    const other = 'music/crossing.wav';
    const author = { by: 'Ada', seen: null };
    await correctFamilies(house.pool, channel, { paths: [path], with: other, undo: false }, author);
    const steps = await ours.proposed(path, '0.1');
    expect(steps.find(({ does }) => does === 'correct')).to.deep.include({
      subject: 'family',
      path,
      is: other,
    });
    const before = await ours.read(path);
    await ours.save(
      path,
      steps.filter(({ does }) => does !== 'take out'),
    );
    expect(await ours.verdicts(path)).to.deep.equal(['fits', 'fits', 'fits']);
    await correctFamilies(house.pool, channel, { paths: [path], with: null, undo: false }, author);
    const { outcomes } = await ours.run(path);
    expect(outcomes[2]).to.include({ verdict: 'does not fit', sentence: 'Here it is said to be nothing.' });
    await correctFamilies(house.pool, channel, { paths: [path], with: null, undo: true }, author);
    expect((await ours.run(path)).outcomes[2]?.sentence).to.equal('Nobody has said this here.');
    await ours.save(path, before.steps);
  });

  it('name keys by what the keyring calls them, and miss those that are not there', async () => {
    const path = 'music/crossing.wav';
    const secret = 'frost-on-the-seventh-lantern';
    await getJson(await house.connection(), 'keyring', {
      body: { title, key: secret, builds: ['0.1'], remark: 'Winter archive', keep: true },
    });
    const [bringIn] = await ours.proposed(path, '0.1');
    expect(bringIn).to.deep.include({ keys: ['Winter archive'] });
    const before = await ours.read(path);
    await ours.save(path, [bringIn!, ...before.steps.slice(1)]);
    expect(JSON.stringify([await ours.read(path), await ours.run(path)])).not.to.include(secret);
    expect((await ours.run(path, '0.2')).outcomes[0]?.sentence).to.equal(
      'The key “Winter archive” is not among those of build 0.2.',
    );
    expect(await ours.remarks(path)).to.deep.equal([
      'Readers need the key “Winter archive”, which this note cannot give them.',
    ]);
    await change(house.pool, 'DELETE FROM title_keys');
    await ours.save(path, before.steps);
  });

  it('are run and saved by the command line; what no longer fits ends it with 1', async () => {
    const where = ['--title', title];
    const shown = await house.run('note', 'show', 'music/crossing.wav', ...where, '--json');
    const file = house.path('note.json');
    writeFileSync(file, shown.output);
    expect((await house.run('note', 'save', 'music/crossing.wav', file, ...where)).output).to.equal(
      'The note on music/crossing.wav has 3 steps.\n',
    );
    const good = await house.run('note', 'run', 'music/crossing.wav', ...where);
    expect(good.output).to.include('fits: 1 file, the same bytes by SHA-256.');
    expect(good.code).to.equal(0);
    const bad = await house.run('note', 'run', 'maps/isle_old.json', ...where, '--build', '0.2');
    expect(bad.code).to.equal(1);
    expect(bad.output).to.include(
      'does not fit: Build 0.2 has no maps/isle_old.json; build 0.1 had it last.',
    );
    const listed = await house.run('note', 'list', ...where);
    expect(listed.output.trim().split('\n')).to.have.length(assets.length);
  });

  it('refuse what is no note, with the file and the reason', async () => {
    mkdirSync(house.path('bad'), { recursive: true });
    const save = async (text: string): Promise<string> => {
      const file = join(house.path('bad'), 'note.json');
      writeFileSync(file, text);
      const { code, errors } = await house.run('note', 'save', 'music/crossing.wav', file, '--title', title);
      expect(code).to.equal(1);
      return errors;
    };
    const before = await ours.read('music/crossing.wav');
    expect(await save('{')).to.match(/note\.json cannot be read: /);
    expect(await save('{"steps": [{"does": "find", "path": ""}]}')).to.match(
      /note\.json is no note: steps\.0\.path: a path is needed/,
    );
    expect(await save('{"steps": [{"does": "format the disk"}]}')).to.match(
      /note\.json is no note: steps\.0/,
    );
    expect(await ours.read('music/crossing.wav')).to.deep.equal(before);
    const missing = await house.run('note', 'run', 'nowhere.png', '--title', title);
    expect(missing.code).to.equal(1);
    expect(missing.errors).to.include('This note has no steps that could be run again.');
    await ours.proposed('nowhere.png', '0.1').then(
      () => expect.fail('it should be refused'),
      (error: unknown) => {
        expect(error).to.be.instanceOf(PlainError);
        expect(String(error)).to.include('The build 0.1 has no asset at nowhere.png.');
      },
    );
  });

  it('leave nothing of an earlier run behind when they are run once more', async () => {
    const kept = (): string[] => readdirSync(join(house.data, 'hauls'));
    await ours.run('music/crossing.wav');
    const before = kept().length;
    await ours.run('music/crossing.wav');
    expect(kept()).to.have.length(before);
    expect(readFileSync(join(house.data, 'hauls', kept()[0] ?? '', 'haul.json'), 'utf8')).to.include(
      'worvelHaul',
    );
  });
});

function filesOf(steps: readonly NoteStep[]): string {
  const count = steps.flatMap((step) => (step.does === 'take out' ? step.files : [])).length;
  return `${count} file${count === 1 ? '' : 's'}`;
}
