import { expect } from 'chai';
import { haulSettingsSchema } from '../../contract/haul-settings.ts';
import { keptNoteSchema, noteStepsSchema, type NoteStep } from '../../contract/notes.ts';
import { checkNote, type KnownOfNote } from './check-note.ts';
import { noteChanges } from './note-changes.ts';
import { stepText } from './step-text.ts';
import { stepsToKeep } from './steps-to-keep.ts';

const sum = 'ab'.repeat(32);
const steps = (...list: object[]): NoteStep[] => noteStepsSchema.parse(list);
const path = 'props/lantern.glb';
const bringIn = { does: 'bring in', build: '0.2' };
const find = { does: 'find', build: '0.2', path };
const takeOut = {
  ...{ does: 'take out', build: '0.2', paths: [path] },
  files: [{ target: 'props/lantern.glb', bytes: 4, sha256: sum }],
};

describe('Steps of a note', () => {
  it('are told with their parameters, those that differ from what is usual', () => {
    const [first, second] = steps(
      { ...bringIn, choice: { only: [], without: ['*.log'] }, keys: ['Winter archive'] },
      { ...takeOut, settings: { models: { as: 'obj', up: 'Z' } } },
    );
    expect(stepText(first!)).to.deep.equal({
      what: 'Bring in build 0.2.',
      parameters: [
        { name: 'Without', value: '*.log' },
        { name: 'Key', value: 'Winter archive' },
      ],
    });
    expect(stepText(second!)).to.deep.equal({
      what: `Take out ${path} of build 0.2.`,
      parameters: [
        { name: 'models.as', value: 'obj' },
        { name: 'models.up', value: 'Z' },
        { name: 'File', value: `props/lantern.glb, SHA-256 ${sum}` },
      ],
    });
  });

  it('tell what was corrected', () => {
    const said = (more: object): string =>
      stepText(steps({ does: 'correct', path: 'a.glb', ...more })[0]!).what;
    expect(said({ subject: 'family', is: 'b.glb' })).to.equal('Say that a.glb belongs with b.glb.');
    expect(said({ subject: 'family', is: null })).to.equal('Say that a.glb belongs to no family.');
    expect(said({ subject: 'link', where: 'wood', is: 'wood.png' })).to.equal(
      'Link “wood” in a.glb to wood.png.',
    );
    expect(said({ subject: 'texture', where: 'glass\tnormal', is: 'g.png' })).to.equal(
      'Say that the normal of the material glass of a.glb is g.png.',
    );
  });

  it('are refused where they are none, and where there are too many', () => {
    const refuses = (value: unknown): boolean => !noteStepsSchema.safeParse(value).success;
    expect(refuses([{ does: 'guess', path }])).to.equal(true);
    expect(refuses([{ does: 'find', path: '' }])).to.equal(true);
    expect(refuses([{ does: 'find', path: 'x'.repeat(4097) }])).to.equal(true);
    expect(refuses([{ does: 'find', path, blake3: 'zz' }])).to.equal(true);
    expect(refuses([{ does: 'by hand', words: '  ' }])).to.equal(true);
    expect(refuses([{ ...takeOut, paths: Array.from({ length: 5001 }, () => 'a') }])).to.equal(true);
    expect(refuses(Array.from({ length: 101 }, () => find))).to.equal(true);
    expect(refuses(Array.from({ length: 100 }, () => find))).to.equal(false);
  });

  it('of before are words alone', () => {
    expect(keptNoteSchema.parse('1. Open it')).to.deep.equal({ body: '1. Open it', steps: [] });
  });

  it('are those that were proposed, where something was', () => {
    const [one, other] = steps(find, bringIn);
    const outcome = { verdict: 'fits', sentence: '', haulRun: null } as const;
    const moved = steps({ ...find, path: 'elsewhere/lantern.glb' })[0]!;
    expect(
      stepsToKeep(
        [one!, other!],
        [
          { ...outcome, proposed: moved },
          { ...outcome, proposed: null },
        ],
      ),
    ).to.deep.equal([moved, other]);
  });
});

describe('What changed between two revisions of a note', () => {
  const before = { body: 'Mind the glass.', steps: steps(bringIn, find, takeOut) };
  it('is told step by step', () => {
    const after = {
      body: 'Mind the glass.\nAnd the chain.',
      steps: steps(
        bringIn,
        { ...find, path: 'moved/lantern.glb', words: 'Look twice.' },
        { does: 'by hand', words: 'Wash it.' },
      ),
    };
    expect(noteChanges(before, after)).to.deep.equal([
      'The words before the steps are others: 1 line new, 0 lines gone.',
      `Step 2 was “Find ${path} in build 0.2.” and is “Find moved/lantern.glb in build 0.2.”`,
      'The words of step 2 are new.',
      'Step 3 is new: By hand:',
      `Step 3 is gone: Take out ${path} of build 0.2.`,
    ]);
  });

  it('is their order, where that alone is another', () => {
    const turned = { ...before, steps: [before.steps[1]!, before.steps[0]!, before.steps[2]!] };
    expect(noteChanges(before, turned)).to.deep.equal(['The steps stand in another order.']);
    expect(noteChanges(before, before)).to.deep.equal([]);
  });
});

describe('The check of a note', () => {
  const known: KnownOfNote = { path, profile: () => haulSettingsSchema.parse({}), plans: new Map() };
  const check = (list: NoteStep[], more: Partial<KnownOfNote> = {}): string[] =>
    checkNote({ body: '', steps: list }, { ...known, ...more }).map(
      ({ step, text }) => `${step === null ? '' : `${step + 1}: `}${text}`,
    );

  it('finds nothing in a whole note', () => {
    expect(check(steps(bringIn, find, takeOut))).to.deep.equal([]);
  });

  it('finds steps without a build, and builds that nobody brought in', () => {
    expect(check(steps({ ...find, build: '' }))).to.deep.equal(['1: It does not say of which build.']);
    expect(check(steps(find))).to.deep.equal(['1: No step before it says how build 0.2 is brought in.']);
    expect(check(steps(find, bringIn))).to.deep.equal([
      '1: No step before it says how build 0.2 is brought in.',
    ]);
  });

  it('finds paths that no step reaches', () => {
    expect(check(steps(bringIn, takeOut))).to.deep.equal([`2: No step before it comes to ${path}.`]);
    const other = { ...find, path: 'other.glb' };
    expect(check(steps(bringIn, other))).to.deep.equal([`No step comes to ${path}, which the note is on.`]);
    const searched = { does: 'search', build: '0.2', query: 'lantern', found: 3 };
    expect(check(steps(bringIn, searched, takeOut))).to.deep.equal([]);
  });

  it('finds a setting that differs from the profile, and a profile that is gone', () => {
    const set = { ...takeOut, profile: 'Ours', settings: { pictures: { as: 'tga' }, models: { up: 'Z' } } };
    expect(check(steps(bringIn, find, set))).to.deep.equal([
      '3: pictures.as is tga here, and png in the profile “Ours”; 1 other setting too.',
    ]);
    expect(check(steps(bringIn, find, set), { profile: () => null })).to.deep.equal([
      '3: There is no profile “Ours” any more.',
    ]);
  });

  it('finds keys that readers do not have, files that are left out, and sums that are not there', () => {
    expect(check(steps({ ...bringIn, keys: ['Winter archive'] }, find))).to.deep.equal([
      '1: Readers need the key “Winter archive”, which this note cannot give them.',
    ]);
    const plans = new Map([
      [2, { targets: ['props/lantern.glb', 'props/glass.png'], missing: ['chain.png'] }],
    ]);
    expect(check(steps(bringIn, find, takeOut), { plans })).to.deep.equal([
      '3: It would also write props/glass.png, which is not listed.',
      '3: chain.png is named and not in the build.',
    ]);
    expect(check(steps(bringIn, find, { ...takeOut, files: [] }))).to.deep.equal([
      '3: It has no files with their sums yet: run it once.',
    ]);
  });

  it('says that words alone cannot be run', () => {
    expect(check([])).to.deep.equal(['Nothing is written here: nobody can repeat it.']);
    expect(checkNote({ body: '1. Open it', steps: [] }, known)[0]?.text).to.include('cannot be run again');
  });
});
