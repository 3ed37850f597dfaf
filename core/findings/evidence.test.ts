import { expect } from 'chai';
import { factsSchema, type Facts } from '../../contract/facts.ts';
import { describe as describeFacts, evidenceOf } from './evidence.ts';
import { bytesText, plural, secondsText } from '../figures.ts';
import type { PlainFinding } from './find.ts';

const finding = (part: Partial<PlainFinding>): PlainFinding => ({
  status: 'changed',
  kind: 'model',
  format: 'glb',
  path: 'a',
  oldPath: 'a',
  size: 2000,
  oldSize: 1000,
  hash: 'n',
  oldHash: 'o',
  ...part,
});
const model = (part: object = {}): Facts =>
  factsSchema.parse({
    kind: 'model',
    triangles: 1204,
    vertices: 700,
    parts: 1,
    materials: 2,
    textures: 1,
    bones: 4,
    clips: [{ name: 'nod', seconds: 2 }],
    boundsMetres: { min: [0, 0, 0], max: [1, 2, 0.5] },
    missing: [],
    ...part,
  });
const sound = (part: object = {}): Facts =>
  factsSchema.parse({
    kind: 'sound',
    seconds: 1.6,
    sampleRate: 22_050,
    channels: 1,
    peak: 0.5,
    loops: [],
    envelope: '',
    ...part,
  });

describe('evidenceOf', () => {
  it('tells what is new and what is gone by its facts, or by its size', () => {
    expect(evidenceOf(finding({ status: 'added', oldSize: null }), model(), null)).to.equal(
      'New: 1,204 triangles, 2 materials, 4 bones, 1 clip.',
    );
    expect(evidenceOf(finding({ status: 'added', oldSize: null }), null, null)).to.equal('New: 2.0 kB.');
    expect(evidenceOf(finding({ status: 'removed', size: null }), null, sound())).to.equal(
      'Gone: 1.60 s, 22050 Hz.',
    );
  });

  it('tells where a content came from', () => {
    expect(evidenceOf(finding({ status: 'moved', oldPath: 'old/a' }), null, null)).to.include(
      'moved from old/a',
    );
    expect(evidenceOf(finding({ status: 'copied', oldPath: 'old/a' }), null, null)).to.include(
      'as old/a, which is still there',
    );
  });

  it('tells the figures that differ, and no others', () => {
    const now = model({
      triangles: 1396,
      clips: [{ name: 'nod', seconds: 3.0333 }],
      boundsMetres: { min: [0, 0, 0], max: [1, 2.5, 0.5] },
    });
    expect(evidenceOf(finding({}), now, model())).to.equal(
      'Triangles 1,204 → 1,396 (+192), clip nod 2.00 s → 3.03 s, extent 1.00 × 2.00 × 0.50 m → 1.00 × 2.50 × 0.50 m.',
    );
    expect(evidenceOf(finding({}), sound({ peak: 1, channels: 2 }), sound())).to.equal(
      'Channels 1 → 2 (+1), peak -6.0 dBFS → 0.0 dBFS.',
    );
    const picture = {
      kind: 'picture',
      width: 512,
      height: 512,
      channels: 4,
      hasAlpha: true,
      bitsPerChannel: 8,
      frames: 1,
      colourSpace: 'srgb',
      encoding: 'png',
      levels: 1,
      layers: 1,
      faces: 1,
      depth: 1,
    } as const;
    expect(evidenceOf(finding({}), { ...picture, width: 768 }, picture)).to.equal('512 × 512 → 768 × 512.');
    const map = {
      kind: 'map',
      placements: 25,
      classes: {},
      models: ['lamp', 'reed'],
      boundsMetres: null,
      tiles: null,
      recipe: '',
    } as const;
    expect(
      evidenceOf(
        finding({}),
        { ...map, placements: 26, models: ['lamp', 'heron', 'stage'] },
        { ...map, models: ['lamp', 'reed'] },
      ),
    ).to.equal('Placements 25 → 26 (+1), 2 models placed for the first time, 1 model placed no more.');
    const text = {
      kind: 'text',
      lines: 3,
      encoding: 'utf-8',
      values: 2,
      language: null,
      excerpt: '',
    } as const;
    expect(evidenceOf(finding({}), { ...text, lines: 2 }, text)).to.equal('Lines 3 → 2 (−1).');
    expect(evidenceOf(finding({}), text, sound())).to.equal('It was a sound and is a text.');
  });

  it('tells the size where no figure differs, and bytes where the size looks the same', () => {
    expect(evidenceOf(finding({}), model(), model())).to.equal(
      'The same figures, other content, 1.0 kB → 2.0 kB.',
    );
    expect(evidenceOf(finding({ size: 32_012, oldSize: 32_000 }), model(), model())).to.equal(
      'The same figures, other content, 12 bytes more.',
    );
    expect(evidenceOf(finding({ size: 1000 }), null, null)).to.equal('Other content, still 1.0 kB.');
  });

  it('tells what can be read no more, or again', () => {
    expect(evidenceOf(finding({ hash: null }), null, model())).to.equal(
      'It cannot be read in the newer build.',
    );
    expect(evidenceOf(finding({ oldHash: null }), model(), null)).to.include('and now it can');
  });
});

describe('figures in words', () => {
  it('rounds bytes, seconds and counts as a person would', () => {
    expect([0, 1, 999, 1000, 9_949, 999_499, 999_500, 4.2e9, 5e15].map(bytesText)).to.deep.equal([
      '0 bytes',
      '1 byte',
      '999 bytes',
      '1.0 kB',
      '9.9 kB',
      '999 kB',
      '1.0 MB',
      '4.2 GB',
      '5000 TB',
    ]);
    expect([0.18, 59.994, 61].map(secondsText)).to.deep.equal(['0.18 s', '59.99 s', '1 min 1 s']);
    expect([plural(1, 'file'), plural(100_000, 'file')]).to.deep.equal(['1 file', '100,000 files']);
    expect(describeFacts(null)).to.equal(null);
  });
});
