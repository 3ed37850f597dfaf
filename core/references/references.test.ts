import { expect } from 'chai';
import { seeded } from '../../demo/seeded.ts';
import { Mentions, type Mention } from '../kinds/mentions.ts';
import { nameWithoutLevel } from '../names/family-members.ts';
import { Lexicon } from '../names/lexicon.ts';
import { PathIndex } from '../search/path-index.ts';
import { makePathTables } from '../search/path-tables.ts';
import { candidatesFor, editDistance } from './candidates.ts';
import { ReferenceGraph, acceptedKey } from './graph.ts';
import { cleaned, resolve, type Places } from './resolve.ts';
import { StemIndex } from './stem-index.ts';

function placesOf(paths: readonly string[], gone: readonly string[] = []): Places {
  const index = new PathIndex(makePathTables([...paths].sort()));
  const lexicon = new Lexicon();
  return {
    index,
    stems: new StemIndex(index),
    levels: new StemIndex(index, (path) => nameWithoutLevel(path, lexicon)),
    isThere: (number) => !gone.includes(index.path(number)),
  };
}

const paths = [
  'data/props.zip!/lamps/lamp.glb',
  'data/props.zip!/lamps/lamp_col.png',
  'data/props.zip!/lamps/Rust.png',
  'data/other.zip!/lamps/lamp.glb',
  'defs/lamp.ini',
  'maps/one.json',
  'models/gate.glb',
  'models/gate.png',
  'models/pier_l0.glb',
  'models/pier_l1.glb',
  'sounds/bell.wav',
];

describe('resolving what a file names', () => {
  const places = placesOf(paths);
  const find = (text: string, from: string, where = '', sort: Mention['sort'] = 'path'): string => {
    const found = resolve(places, { text, sort, where }, from);
    return found ? `${found.rule} ${places.index.path(found.target)}` : 'nothing';
  };

  it('takes paths exactly, from the root, beside, above and below containers', () => {
    const from = 'data/props.zip!/lamps/lamp.glb';
    expect(find('lamp_col.png', from)).to.equal('exact data/props.zip!/lamps/lamp_col.png');
    expect(find('models/gate.glb', from)).to.equal('exact models/gate.glb');
    expect(find('../lamps/lamp_col.png', from)).to.equal('exact data/props.zip!/lamps/lamp_col.png');
    expect(find('lamps/lamp.glb', 'data/props.zip!/x/y.ini')).to.equal(
      'exact data/props.zip!/lamps/lamp.glb',
    );
    expect(find('lamps/lamp.glb', 'data/other.zip!/x.ini')).to.equal('exact data/other.zip!/lamps/lamp.glb');
    expect(find('.\\models\\\\gate.glb', 'maps/one.json')).to.equal('exact models/gate.glb');
  });

  it('takes a missing or a sister extension, and other case, and says so', () => {
    expect(find('models/gate', 'maps/one.json')).to.equal('extension models/gate.glb');
    expect(find('models/gate.fbx', 'maps/one.json')).to.equal('extension models/gate.glb');
    expect(find('models/gate.tga', 'maps/one.json')).to.equal('extension models/gate.png');
    expect(find('lamps/rust.png', 'data/props.zip!/a.ini')).to.equal('case data/props.zip!/lamps/Rust.png');
    expect(find('MODELS/GATE', 'maps/one.json')).to.equal('case models/gate.glb');
  });

  it('takes the picture where a model names its skin without an extension, though a model is called so, too', () => {
    expect(find('gate', 'models/pier_l0.glb', 'file')).to.equal('extension models/gate.png');
    expect(find('gate', 'models/list.ini', 'file')).to.equal('extension models/gate.glb');
    // Where no picture is called so, what is there is taken.
    expect(find('pier_l1', 'models/gate.glb', 'file')).to.equal('extension models/pier_l1.glb');
  });

  it('guesses by the name alone, and never another kind than was named', () => {
    expect(find('gone/bell.wav', 'maps/one.json')).to.equal('name sounds/bell.wav');
    expect(find('gone/bell.png', 'maps/one.json')).to.equal('nothing');
    expect(find('gone/nothing.glb', 'maps/one.json')).to.equal('nothing');
    expect(find('gate', 'maps/one.json', 'material', 'name')).to.equal('name models/gate.glb');
    expect(find('gate', 'maps/one.json', 'texture', 'name')).to.equal('name models/gate.png');
  });

  it('takes a model without its level of detail for the finest', () => {
    expect(find('pier', 'maps/one.json', 'placement')).to.equal('name models/pier_l0.glb');
    expect(find('models/pier', 'maps/one.json', 'model')).to.equal('extension models/pier_l0.glb');
  });

  it('never names itself, nor what the build lacks', () => {
    expect(find('defs/lamp.ini', 'defs/lamp.ini')).to.equal('nothing');
    const lacking = placesOf(paths, ['models/gate.glb']);
    const found = resolve(lacking, { text: 'models/gate', sort: 'path', where: '' }, 'maps/one.json');
    expect(found && lacking.index.path(found.target)).to.equal('models/gate.png');
  });

  it('cleans what is written', () => {
    expect(cleaned(' C:\\a\\b.png ')).to.equal('a/b.png');
    expect(cleaned('./a%20b.png')).to.equal('a b.png');
    expect(cleaned('100%.png')).to.equal('100%.png');
  });

  it('finds every stem that is there, on seeded cases', () => {
    const random = seeded(5);
    const many = Array.from(
      { length: 4000 },
      (_, at) => `f${Math.floor(random() * 40)}/n${Math.floor(random() * 900)}_${at % 3}.png`,
    );
    const { index, stems } = placesOf([...new Set(many)]);
    for (let round = 0; round < 100; round++) {
      const stem = `N${Math.floor(random() * 900)}_${round % 3}`;
      const found: string[] = [];
      stems.each(stem, (number) => void found.push(index.path(number)));
      expect(found).to.deep.equal(
        [...new Set(many)].filter((path) => path.endsWith(`/${stem.toLowerCase()}.png`)).sort(),
      );
    }
  });
});

describe('the graph of links', () => {
  const mention = (text: string, sort: Mention['sort'] = 'path'): Mention => ({ text, sort, where: 'file' });
  const make = (accepted = new Map<string, string>()) => {
    const places = placesOf(paths);
    const graph = new ReferenceGraph(places, accepted, (path) => places.index.numberOf(path));
    const at = (path: string): number => places.index.numberOf(path);
    graph.add({
      number: at('maps/one.json'),
      mentions: [mention('models/gate.glb'), mention('lost/thing.glb'), mention('no_such_name_1', 'name')],
    });
    graph.add({ number: at('models/gate.glb'), mentions: [mention('gate.png'), mention('gate.png')] });
    graph.add({ number: at('models/gate.png'), mentions: [mention('maps/one.json')] });
    return { graph, at, path: (number: number) => places.index.path(number) };
  };

  it('follows links both ways over any number of steps, once each, in circles too', () => {
    const { graph, at, path } = make();
    const needs = graph.reach(at('maps/one.json'), 'needs', 100).reached;
    expect(needs.map(({ number, depth, via }) => [path(number), depth, path(via)])).to.deep.equal([
      ['models/gate.glb', 1, 'maps/one.json'],
      ['models/gate.png', 2, 'models/gate.glb'],
    ]);
    expect(
      graph.reach(at('models/gate.png'), 'neededBy', 100).reached.map(({ number }) => path(number)),
    ).to.deep.equal(['models/gate.glb', 'maps/one.json']);
    expect(graph.reach(at('maps/one.json'), 'needs', 1)).to.include({ isCut: true });
    expect(graph.isNamed(at('sounds/bell.wav'))).to.equal(false);
  });

  it('tells paths that lead nowhere, and no names', () => {
    expect(make().graph.missing.map(({ mention: { text } }) => text)).to.deep.equal(['lost/thing.glb']);
  });

  it('takes what a person accepted before all else', () => {
    const { graph, at, path } = make(
      new Map([[acceptedKey('maps/one.json', 'lost/thing.glb'), 'sounds/bell.wav']]),
    );
    expect(graph.missing).to.deep.equal([]);
    expect(graph.needs(at('maps/one.json')).map(({ to, rule }) => [path(to), rule])).to.deep.include([
      'sounds/bell.wav',
      'accepted',
    ]);
  });
});

describe('candidates for what is missing', () => {
  it('are alike by parts or by letters, of the same kind, best first, with a reason', () => {
    const { index, isThere } = placesOf([
      'a/stage_small.glb',
      'a/stage_small.png',
      'b/StageSmall.glb',
      'b/stage_smal.glb',
      'b/else.glb',
    ]);
    const found = candidatesFor(index, isThere, 'x/stage-small.glb', 'maps/m.json');
    expect(found[0]?.path).to.be.oneOf(['a/stage_small.glb', 'b/StageSmall.glb']);
    expect(found.map(({ path }) => path)).to.have.members([
      'a/stage_small.glb',
      'b/StageSmall.glb',
      'b/stage_smal.glb',
    ]);
    expect(found[0]?.reason).to.equal('the same name, written otherwise');
    expect(found.at(-1)?.reason).to.equal('1 letter differs');
  });

  it('counts letters as Levenshtein does (kitten, sitting: 3; the usual example)', () => {
    expect(editDistance('kitten', 'sitting')).to.equal(3);
    expect(editDistance('', 'abc')).to.equal(3);
    expect(editDistance('same', 'same')).to.equal(0);
  });
});

describe('mentions', () => {
  const of = (pairs: readonly [key: string, value: string][]): string[] => {
    const mentions = new Mentions();
    for (const [key, value] of pairs) mentions.addValue(value, key);
    return mentions.list().map(({ text, sort }) => `${sort} ${text}`);
  };

  it('are values that look like paths or names, and no sentences, numbers or addresses', () => {
    expect(
      of([
        ['model', 'data/props/lamp'],
        ['icon', 'lamp.png'],
        ['mesh', 'lum_pier'],
        ['a', 'x/y/z'],
      ]),
    ).to.deep.equal(['path data/props/lamp', 'path lamp.png', 'name lum_pier', 'path x/y/z']);
    expect(
      of([
        ['text', 'Open the door/gate now.'],
        ['n', '12.5'],
        ['n', '1/2'],
        ['u', 'https://example.com/a.png'],
        ['t', 'and/or'],
        ['t', 'See lamp.png'],
        ['t', 'hello'],
      ]),
    ).to.deep.equal([]);
  });

  it('are kept once, a path rather than a name', () => {
    const mentions = new Mentions();
    mentions.addName('lamp_1', 'a');
    mentions.addPath('lamp_1', 'b');
    mentions.addPath('lamp_1', 'c');
    expect(mentions.list()).to.deep.equal([{ text: 'lamp_1', sort: 'path', where: 'b' }]);
  });
});
