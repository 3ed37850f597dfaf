import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { formatTrialSchema } from '../contract/format-trials.ts';
import { functions } from '../core/formats/language/functions.ts';
import { packings } from '../core/formats/packings/packings.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { run as runProgram } from './support/leaves.ts';
import type { Outcome } from './support/worvel.ts';

const sheetsFolder = join(applicationRoot, 'docs', 'format-sheets');

/** What needs no title and no server: trying sheets on files, and asking what unknown bytes say. */
describe('Commands for formats', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-test-formats-'));
  const path = (name: string): string => join(folder, name);
  const format = (...args: string[]): Outcome => {
    const { status, stdout, stderr } = spawnSync(
      process.execPath,
      [join(applicationRoot, 'dist', 'node', 'cli.js'), 'format', ...args],
      { encoding: 'utf8', timeout: 60_000 },
    );
    return { code: status ?? -1, output: stdout, errors: stderr };
  };
  const sheet = (name: string, text: string): string => {
    writeFileSync(path(name), text);
    return path(name);
  };
  const head = "sheet: A\nlanguage: 1\nfiles: '*'\n";

  before(() => {
    mkdirSync(path('folder'));
    for (const [at, size] of ['24x40', '33x12', '50x51', '17x90', '64x20'].entries())
      runProgram('convert', ['-size', size, 'plasma:red-blue', `BMP3:${path(`${at}.bmp`)}`], folder);
    writeFileSync(path('short.bmp'), readFileSync(path('0.bmp')).subarray(0, 100));
    writeFileSync(path('empty.bmp'), '');
  });
  after(() => rmSync(folder, { recursive: true }));

  it('try a sheet on files, in words and as JSON of the published schema', () => {
    const bmp = join(sheetsFolder, 'bmp.yaml');
    const said = format('try', bmp, path('0.bmp'));
    expect(said).to.deep.include({ code: 0, errors: '' });
    expect(said.output).to.include('a picture of 24 × 40, ').and.include('width: 24');
    const both = format('try', bmp, path('0.bmp'), path('short.bmp'), path('empty.bmp'), '--json');
    expect(both.code).to.equal(1);
    const trials = both.output
      .trimEnd()
      .split('\n')
      .map((line) => formatTrialSchema.parse(JSON.parse(line)));
    expect(trials.map(({ version }) => version !== null)).to.deep.equal([true, false, false]);
    expect(trials[1]?.tried[0]?.error?.message).to.match(/\d/);
    expect(trials[2]?.tried[0]?.error).to.deep.include({ at: 0 });
    expect(format('try', bmp, path('0.bmp'), path('short.bmp')).output).to.include('The sheet fits 1 of 2');
  });

  it('name the file and the reason where something cannot be read', () => {
    const bmp = join(sheetsFolder, 'bmp.yaml');
    const wrong = (...args: string[]): string => {
      const { code, errors } = format(...args);
      expect(code, args.join(' ')).to.be.greaterThan(0);
      return errors;
    };
    expect(wrong('try', bmp, path('nothing.bmp'))).to.include(`${path('nothing.bmp')} cannot be read`);
    expect(wrong('try', bmp, path('folder'))).to.include(`${path('folder')} cannot be read`);
    expect(wrong('try', path('nothing.yaml'), path('0.bmp'))).to.include('nothing.yaml cannot be read');
    expect(wrong('try', bmp, path('0.bmp'), '--sheet-version', '7')).to.include('has no version 7');
    expect(wrong('guess', path('nothing.bmp'))).to.include(`${path('nothing.bmp')} cannot be read`);
    expect(wrong('guess', path('folder'))).to.include(`${path('folder')} cannot be read`);
  });

  it('name the line of a sheet that cannot be used, whatever it tries', () => {
    const said = (name: string, text: string): string => {
      const { code, errors } = format('try', sheet(name, text), path('0.bmp'));
      expect(code, name).to.be.greaterThan(0);
      expect(errors.length, name).to.be.lessThan(20_000);
      return errors;
    };
    expect(said('open.yaml', `${head}root: { a: [`)).to.match(/open\.yaml:\d+:\d+: /);
    expect(said('tab.yaml', `${head}root:\n\ta: u8`)).to.match(/tab\.yaml:\d+:\d+: /);
    expect(said('type.yaml', `${head}root:\n  a: u9\n`)).to.include(
      'type.yaml:5:6: a.u9: there is no type u9',
    );
    expect(said('twice.yaml', `${head}root:\n  a: u8\n  a: u8\n`)).to.include('twice.yaml:6');
    expect(said('proto.yaml', `${head}root:\n  __proto__: { type: nothing }\n`)).to.include('proto.yaml');
    expect(said('long.yaml', head + '#'.repeat(300_000))).to.include('at most 262144 letters');
    const deep = `${head}root: ${'{ a: { fields: '.repeat(3000)}{ b: u8 }${' } }'.repeat(3000)}`;
    expect(said('deep.yaml', deep)).to.match(/deep\.yaml:\d+:\d+: /);
    const aliases = `a: &a [x, x, x, x]\n${Array.from({ length: 30 }, (_, at) => `b${at}: &b${at} [*${at === 0 ? 'a' : `b${at - 1}`}, *${at === 0 ? 'a' : `b${at - 1}`}]`).join('\n')}`;
    expect(said('aliases.yaml', aliases)).to.match(/aliases\.yaml:2:\d+: names that stand for other/);
    expect(said('binary.yaml', '\0\u0001\ufffe')).to.include('binary.yaml');
  });

  it('end where a sheet would go on for ever, or take all memory', () => {
    for (const [name, root] of Object.entries({
      ever: '  all: { type: E, until: "1 == 2" }\ntypes:\n  E: { v: { value: 1 } }',
      self: '  all: S\ntypes:\n  S: { one: { type: S, at: 0 } }',
      huge: '  all: { type: "u8[4]", count: "9007199254740991" }',
      text: '  a: string(8)\n  b: { value: "replace(a, \'B\', a + a)" }\n  c: { type: bytes, unpack: [{ runs: { coding: \'"tga"\', unit: 100000000 } }] }',
    })) {
      const begin = Date.now();
      const { code, output, errors } = format(
        'try',
        sheet(`${name}.yaml`, `${head}root:\n${root}\n`),
        path('0.bmp'),
      );
      expect(code, `${name}: ${output}${errors}`).to.equal(1);
      expect(Date.now() - begin, name).to.be.lessThan(40_000);
    }
  });

  it('say what unknown bytes of several files mean, with a root that can be used', () => {
    const files = [0, 1, 2, 3, 4].map((at) => path(`${at}.bmp`));
    const { code, output } = format('guess', ...files);
    expect(code).to.equal(0);
    // Of BMP (Microsoft, BITMAPFILEHEADER and BITMAPINFOHEADER): the file's size at 2, width at 18, height at 22.
    expect(output).to.match(/size +0x2 +the size of the file, in 5 files/);
    expect(output).to.match(/pixels +0x12 .*24 bits a pixel, with rows filled up to 4 bytes/);
    expect(output)
      .to.match(/pixels +0x16 /)
      .and.match(/order +.*little-endian/);
    const root = output.slice(output.indexOf('root:'));
    expect(format('try', sheet('guessed.yaml', `${head}${root}`), path('3.bmp')).output).to.include(
      'width: 17',
    );
    const { proposals } = JSON.parse(format('guess', ...files, '--json').output) as {
      proposals: { score: number }[];
    };
    expect(proposals.every(({ score }) => score >= 0 && score <= 1)).to.equal(true);
    expect(format('guess', path('empty.bmp')).output).to.include('Nothing was found.');
    expect(format('guess', path('0.bmp')).output).to.include('Several files of the format say far more');
  });

  it('list the words that a sheet can name, and print the schema that is published', () => {
    const { output } = format('words');
    for (const word of [...Object.keys(functions), ...Object.keys(packings), 'bc7'])
      expect(output).to.match(new RegExp(`^  ${word} `, 'm'));
    const published: unknown = JSON.parse(readFileSync(join(sheetsFolder, 'schema.json'), 'utf8'));
    expect(JSON.parse(format('schema').output)).to.deep.equal(published);
  });
});
