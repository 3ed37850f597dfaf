import { expect } from 'chai';
import fc from 'fast-check';
import { posix } from 'node:path';
import { safeName, Targets } from './targets.ts';

const asset = (path: string, endings: string[] = [''], family = '') => ({ path, family, endings });

describe('Where files of a haul go', () => {
  it('keeps the folders of the build, containers too, and gives new endings', () => {
    const targets = new Targets('as in the build');
    expect(targets.place(asset('data/props.zip!/lamps/lamp.glb', ['.obj', '.mtl'])).stem).to.equal(
      'data/props.zip/lamps/lamp',
    );
    expect(targets.place(asset('data/readme.txt')).stem).to.equal('data/readme.txt');
  });

  it('tells names apart that differ in the size of their letters alone, or in what they were', () => {
    const targets = new Targets('one folder');
    expect(targets.place(asset('a/Lamp.dds', ['.png']))).to.deep.equal({ stem: 'Lamp', insteadOf: '' });
    expect(targets.place(asset('b/lamp.tga', ['.png']))).to.deep.equal({
      stem: 'lamp (2)',
      insteadOf: 'lamp',
    });
    expect(targets.place(asset('c/LAMP.png'))).to.deep.equal({ stem: 'LAMP (3).png', insteadOf: 'LAMP.png' });
    expect(targets.place(asset('d/lamp.ini')).stem).to.equal('lamp.ini');
  });

  it('calls a container otherwise than the folder of what is in it', () => {
    const assets = [asset('sound/marsh.bank'), asset('sound/marsh.bank!/call.wav')];
    const targets = new Targets('as in the build');
    for (const one of assets) targets.reserve(one);
    expect(assets.map((one) => targets.place(one).stem)).to.deep.equal([
      'sound/marsh (2).bank',
      'sound/marsh.bank/call.wav',
    ]);
  });

  it('numbers thousands that are called alike without trying each number again', () => {
    const targets = new Targets('one folder');
    const start = performance.now();
    const stems = Array.from(
      { length: 30_000 },
      (_, at) => targets.place(asset(`${at}/icon.tga`, ['.png'])).stem,
    );
    expect(new Set(stems).size).to.equal(30_000);
    expect(stems.at(-1)).to.equal('icon (30000)');
    // Trying each again would take minutes.
    expect(performance.now() - start).to.be.below(10_000);
  });

  it('makes a folder for each family', () => {
    const targets = new Targets('by family');
    expect(targets.place(asset('x/y/lamp_l0.glb', ['.glb'], 'lamp')).stem).to.equal('lamp/lamp_l0');
    expect(targets.place(asset('x/z.bin')).stem).to.equal('without a family/z.bin');
  });

  it('makes names that every usual file system takes', () => {
    expect(safeName('a:b?c*.txt')).to.equal('a_b_c_.txt');
    expect(safeName('CON.txt')).to.equal('_CON.txt');
    expect(safeName('..')).to.equal('__');
    expect(safeName('end. ')).to.equal('end__');
    expect(new TextEncoder().encode(safeName('ü'.repeat(300))).length).to.be.at.most(180);
    expect(safeName('ü'.repeat(300))).to.not.equal(safeName('ü'.repeat(301)));
  });

  it('never leads out of the folder that is written to, and never gives one place twice', () => {
    const part = fc.oneof(
      fc.constantFrom('..', '.', '', 'a', 'A', 'con', 'x!'),
      fc.string({ maxLength: 12 }),
    );
    const path = fc.array(part, { minLength: 1, maxLength: 5 }).map((parts) => parts.join('/'));
    fc.assert(
      fc.property(
        fc.array(path, { maxLength: 30 }),
        fc.constantFrom('as in the build', 'one folder', 'by family'),
        (paths, folders) => {
          const targets = new Targets(folders);
          const stems = paths.map((one) => targets.place(asset(one, ['.png'])).stem);
          for (const stem of stems) {
            const whole = posix.normalize(posix.join('/out', `${stem}.png`));
            expect(whole.startsWith('/out/'), stem).to.equal(true);
            expect(whole, stem).to.equal(`/out/${stem}.png`);
          }
          expect(new Set(stems.map((stem) => stem.toLowerCase())).size).to.equal(stems.length);
        },
      ),
      { numRuns: 400 },
    );
  });
});
