import { expect } from 'chai';
import type { Asset } from '../../../contract/assets.ts';
import { factsSchema, type Facts } from '../../../contract/facts.ts';
import { TestPage } from '../../../tests/support/page.ts';

/** What is known of an asset: every kind says what people ask of it, and nothing where there is nothing to say. */
describe('The list of facts', () => {
  const page = new TestPage();
  before(() => page.open());
  after(() => page.close());
  afterEach(() => page.clear());

  const show = async (facts: unknown, more: Partial<Asset> = {}): Promise<Record<string, string>> => {
    const { FactsList } = await import('./facts-list.tsx');
    const known: Facts | null = facts === null ? null : factsSchema.parse(facts);
    const asset = {
      kind: known?.kind ?? 'other',
      format: 'made',
      identifiedByExtension: false,
      isUnread: false,
      size: 1_234_567,
      hash: `${'a'.repeat(32)}${'b'.repeat(32)}`,
      facts: known,
      ...more,
    } as Asset;
    const { container } = page.render(<FactsList asset={asset} />);
    const names = [...container.querySelectorAll('dt')].map(({ textContent }) => textContent);
    const values = [...container.querySelectorAll('dd')].map(({ textContent }) => textContent);
    page.clear();
    // Two rows of one name stand one below the other.
    return names.reduce<Record<string, string>>((rows, name, at) => {
      rows[name] = [rows[name], values[at]].filter(Boolean).join(' | ');
      return rows;
    }, {});
  };

  const picture = {
    kind: 'picture',
    width: 512,
    height: 256,
    channels: 4,
    bitsPerChannel: 8,
    hasAlpha: true,
    colourSpace: 'sRGB',
    encoding: 'BC7',
    levels: 10,
    faces: 1,
    layers: 1,
    depth: 1,
    frames: 1,
  };

  it('has kind, size and hash of anything, also of what nobody could read', async () => {
    expect(await show(null)).to.deep.equal({
      Kind: 'other, made',
      Size: '1.2 MB (1,234,567 bytes)',
      BLAKE3: `${'a'.repeat(32)} ${'b'.repeat(32)}`,
    });
    expect(await show(null, { size: null, hash: null, identifiedByExtension: true })).to.deep.equal({
      Kind: 'other, made (by its extension)',
      Size: 'unknown',
      BLAKE3: 'none',
    });
  });

  it('tells a picture’s pixels and packing, and mips, sides and frames where there is more than one', async () => {
    const rows = await show(picture);
    expect(rows).to.include({
      Pixels: '512 × 256',
      Channels: '4 of 8 bits, with alpha',
      Colour: 'sRGB, packed as BC7',
      Mips: '10',
    });
    expect(rows).not.to.have.any.keys('Cube map', 'Layers', 'Slices', 'Frames');
    expect(await show({ ...picture, faces: 6, layers: 2, depth: 3, frames: 4, levels: 1 })).to.include({
      'Cube map': '6 sides',
      Layers: '2',
      Slices: '3',
      Frames: '4',
    });
  });

  it('names the sheet that a format of the game’s own was read by', async () => {
    const sheet = { name: 'Reed texture', version: '2' };
    expect(await show({ ...picture, sheet }, { format: 'sheet-picture' })).to.include({
      Kind: 'picture, of a format of the game’s own',
      'Read by': 'sheet “Reed texture”, version 2',
    });
    expect(await show({ ...picture, sheet: { ...sheet, version: '' } })).to.include({
      'Read by': 'sheet “Reed texture”',
    });
    expect(await show(picture)).not.to.have.property('Read by');
  });

  it('tells a model’s figures with thousands parted, its clips, and what it misses', async () => {
    const model = {
      kind: 'model',
      triangles: 12_345,
      vertices: 6_789,
      parts: 2,
      materials: 1,
      textures: 3,
      bones: 41,
      clips: [{ name: 'walk', seconds: 1.5, rate: 30, bones: 40 }],
      uvSets: 2,
      hasColours: true,
      hasUvs: true,
      hasNormals: true,
      morphTargets: 4,
      variants: ['wet', 'dry'],
      instances: 0,
      boundsMetres: { min: [0, 0, 0], max: [1, 2, 3] },
      units: 'metres',
      missing: ['gru.png'],
    };
    const rows = await show(model);
    expect(rows).to.include({
      Triangles: '12,345',
      Parts: '2, 1 material, 3 textures',
      Bones: '41',
      Clip: 'walk, 1.50 s, 30 keys a second, moves 40 bones',
      'UV sets': '2',
      Colours: 'at its vertices',
      Morphs: '4',
      Variants: 'wet, dry',
      Missing: 'gru.png',
    });
    expect(rows).not.to.have.any.keys('Instances');
  });

  it('tells a sound’s length, rate and loops in seconds, and notes where it has notes', async () => {
    const sound = {
      kind: 'sound',
      seconds: 2,
      sampleRate: 48_000,
      channels: 2,
      bits: 16,
      coding: 'PCM',
      peak: 0.5,
      envelope: '',
      cues: [{ frame: 24_000, label: 'ring' }],
      loops: [{ startFrame: 0, endFrame: 47_999 }],
      notes: null,
      instruments: [],
    };
    expect(await show(sound)).to.include({
      Rate: '48,000 Hz, stereo',
      Coding: 'PCM of 16 bits',
      Cues: 'ring 0.50 s',
      Loop: '0.00 s to 1.00 s',
    });
    expect(await show({ ...sound, notes: 120, channels: 3, instruments: ['Piano', 'Drums'] })).to.include({
      Events: '120 notes on 3 tracks',
      Instruments: 'Piano, Drums',
    });
  });

  it('tells a map’s placements by class, or its tiles', async () => {
    const map = {
      kind: 'map',
      placements: 1500,
      models: ['a', 'b'],
      classes: { prop: 1400, light: 100 },
      boundsMetres: { min: [0, 0, 0], max: [10, 2, 30] },
      tiles: null,
      recipe: 'Isles',
    };
    expect(await show(map)).to.include({
      Placements: '1,500',
      Models: '2',
      Classes: 'prop 1400, light 100',
      Recipe: 'Isles',
    });
    const tiles = {
      width: 100,
      height: 50,
      set: 4_000,
      tileWidth: 16,
      tileHeight: 16,
      orientation: 'orthogonal',
      layers: 3,
    };
    expect(await show({ ...map, tiles, recipe: '' })).to.include({
      Tiles: '100 × 50, 4,000 set',
      'Tile size': '16 × 16 pixels, orthogonal',
      Layers: '3',
    });
  });

  it('tells a text’s lines, values and encoding', async () => {
    const text = { kind: 'text', lines: 3000, values: 2900, encoding: 'UTF-8', language: 'de', excerpt: '' };
    expect(await show(text)).to.include({
      Lines: '3,000',
      Values: '2,900',
      Encoding: 'UTF-8',
      Language: 'de',
    });
    expect(await show({ ...text, values: null, language: null })).not.to.have.any.keys('Values', 'Language');
  });
});
