import { expect } from 'chai';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { createRequire } from 'node:module';
import { basename, dirname, join } from 'node:path';
import type { Mesh } from 'three';
import { readBySheet, sheetOf } from '../../tests/support/by-sheet.ts';
import { run } from '../../tests/support/leaves.ts';
import { fingerprintOf, readFile } from '../../tests/support/read.ts';
import { failureOf } from '../../tests/support/failure.ts';
import { sheetJsonSchema } from '../../contract/format-sheets.ts';
import { readFields } from './read-by-sheet.ts';

const sheets = join(import.meta.dirname, '..', '..', 'docs', 'format-sheets');
const open = (name: string) => sheetOf(readFileSync(join(sheets, `${name}.yaml`), 'utf8'));

/** Open formats, read by the sheets that ship as examples and by the product’s own readers: files of Debian and of its tools. */
describe('Sheets of open formats', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-sheets-'));
  const at = (name: string): string => join(folder, name);
  const listed = (suffix: string): string[] =>
    run('dpkg', ['-L', 'assimp-testmodels'], folder)
      .toString()
      .split('\n')
      .filter((path) => path.toLowerCase().endsWith(suffix));
  after(() => rmSync(folder, { recursive: true }));

  /** Reads files both ways. @returns names of those that are not the same, with why */
  const differing = async (sheet: string, format: string, files: readonly string[]): Promise<string[]> => {
    const opened = open(sheet);
    const wrong: string[] = [];
    for (const file of files)
      try {
        const own = fingerprintOf(await readFile(file));
        const reading = await readBySheet(opened, format, readFileSync(file), file);
        if (own === null || fingerprintOf(reading) !== own) wrong.push(`${basename(file)}: another content`);
      } catch (error) {
        wrong.push(`${basename(file)}: ${error instanceof Error ? error.message : String(error)}`);
      }
    return wrong;
  };

  describe('of pictures', () => {
    const pictures = listed('.png').slice(0, 30);
    const made = (name: string, ...args: string[]): string[] => {
      expect(pictures.length, 'needs assimp-testmodels').to.equal(30);
      mkdirSync(at(name));
      pictures.forEach((picture, number) =>
        run('convert', [`${picture}[0]`, '-resize', '90x70!', ...args, `${name}/${number}.${name}`], folder),
      );
      return readdirSync(at(name)).map((file) => at(join(name, file)));
    };

    it('BMP of 24 bits, and with palettes', async () => {
      const files = made('bmp', '-alpha', 'off', '-compress', 'none');
      for (const [number, colours] of [2, 4, 16, 60, 200].entries()) {
        const palette = ['-type', 'palette', '-colors', String(colours), '-compress', 'none'];
        const name = `palette-${number}.bmp`;
        run(
          'convert',
          [pictures[number] ?? '', '-resize', '37x21!', '-alpha', 'off', ...palette, `BMP3:${name}`],
          folder,
        );
        files.push(at(name));
      }
      expect(await differing('bmp', 'bmp', files)).to.deep.equal([]);
    });

    it('TGA, plain and in runs, with and without alpha', async () => {
      const files = made('tga', '-compress', 'RLE');
      run('convert', [pictures[0] ?? '', '-compress', 'none', '-orient', 'TopLeft', 'top.tga'], folder);
      expect(await differing('tga', 'tga', [...files, at('top.tga')])).to.deep.equal([]);
    });

    it('DDS of BC1 and BC3, with mips', async () => {
      const files = made('dds', '-define', 'dds:compression=dxt5', '-define', 'dds:mipmaps=5');
      run('convert', [pictures[1] ?? '', '-define', 'dds:compression=dxt1', 'one.dds'], folder);
      const both = [...files, at('one.dds')];
      expect(await differing('dds', 'dds', both)).to.deep.equal([]);
      const { facts } = await readBySheet(open('dds'), 'dds', readFileSync(files[0] ?? ''), 'x.dds');
      const { facts: own } = await readFile(files[0] ?? '');
      expect(facts).to.deep.include({ kind: 'picture', levels: own.kind === 'picture' ? own.levels : 0 });
    });

    it('DDS of BC1 to BC5 and of BC7, in the older header and the newer one', async () => {
      const encode = join(
        dirname(createRequire(import.meta.url).resolve('@gpu-tex-enc/bc')),
        'bin/linux/bc7enc',
      );
      mkdirSync(at('blocks'));
      const files = pictures.slice(0, 8).flatMap((picture, number) => {
        run('convert', [`${picture}[0]`, '-resize', '60x36!', 'PNG32:block.png'], folder);
        const forms = {
          bc1: ['-1'],
          bc3: ['-3'],
          bc4: ['-4'],
          bc5: ['-5', '-f'],
          bc7: [],
          bc7rdo: ['-C', '-z2'],
        };
        const made = Object.entries(forms).map(([form, options]) => {
          const file = `blocks/${number}-${form}.dds`;
          run(encode, ['-q', '-g', ...options, 'block.png', file], folder);
          return at(file);
        });
        run('nvcompress', ['-nocuda', '-bc2', 'block.png', `blocks/${number}-bc2.dds`], folder);
        return [...made, at(`blocks/${number}-bc2.dds`)];
      });
      expect(await differing('dds', 'dds', files)).to.deep.equal([]);
    });
  });

  it('of sounds: WAV of 8, 16 and 24 bits, floats and IMA ADPCM', async () => {
    const sources = run('dpkg', ['-L', 'sonic-pi-samples'], folder)
      .toString()
      .split('\n')
      .filter((path) => path.endsWith('.flac'));
    expect(sources.length, 'needs sonic-pi-samples').to.be.above(100);
    const codings = [
      ['-b', '16'],
      ['-b', '8'],
      ['-b', '24'],
      ['-e', 'floating-point', '-b', '32'],
      ['-e', 'ima-adpcm'],
    ];
    const files = sources.slice(0, 40).map((source, number) => {
      const name = `${number}.wav`;
      run('sox', ['-V1', source, ...(codings[number % 5] ?? []), name, 'trim', '0', '1'], folder);
      return at(name);
    });
    expect(await differing('wav', 'wav', files)).to.deep.equal([]);
  });

  it('of models: binary STL, written by three from models in OBJ', async () => {
    const { STLExporter } = await import('three/examples/jsm/exporters/STLExporter.js');
    const { OBJLoader } = await import('three/examples/jsm/loaders/OBJLoader.js');
    const files = listed('.obj').flatMap((path) => {
      const root = new OBJLoader().parse(readFileSync(path, 'latin1'));
      root.updateMatrixWorld(true);
      let triangles = 0;
      root.traverse((object) => {
        const { geometry } = object as Partial<Mesh>;
        triangles += geometry?.getAttribute('position')?.count ?? 0;
      });
      if (triangles === 0) return [];
      const name = `${basename(path)}.stl`;
      const written = new STLExporter().parse(root, { binary: true });
      writeFileSync(at(name), Buffer.from(written.buffer));
      return [at(name)];
    });
    const real = listed('.stl').filter(
      (path) => !readFileSync(path).subarray(0, 5).equals(Buffer.from('solid')),
    );
    expect(files.length + real.length).to.be.above(15);
    expect(await differing('stl', 'stl', [...files, ...real])).to.deep.equal([]);
  });

  it('of models: PLY as text and in both byte orders, written by three from models in OBJ', async () => {
    const { PLYExporter } = await import('three/examples/jsm/exporters/PLYExporter.js');
    const { OBJLoader } = await import('three/examples/jsm/loaders/OBJLoader.js');
    const forms = { text: {}, big: { binary: true }, little: { binary: true, littleEndian: true } } as const;
    const files = { text: [] as string[], binary: [] as string[] };
    for (const path of listed('.obj').filter((name) => !/invalid|UTF16|line|mixed/.test(name))) {
      const root = new OBJLoader().parse(readFileSync(path, 'latin1'));
      root.updateMatrixWorld(true);
      for (const [form, options] of Object.entries(forms)) {
        // Its types want to be told by a function, which runs a frame later: there are no frames here.
        const written = new PLYExporter().parse(root, undefined as never, options);
        if (!written) continue;
        const name = `${basename(path)}-${form}.ply`;
        writeFileSync(at(name), typeof written === 'string' ? written : Buffer.from(written));
        files[form === 'text' ? 'text' : 'binary'].push(at(name));
      }
    }
    // One has a remark without its word, another a list among its vertices that is not there; the third is cut short.
    const real = listed('.ply').filter((path) => !/invalid|Wuson|issue623|pond/.test(path));
    const isText = (path: string): boolean => readFileSync(path).subarray(0, 60).includes('ascii');
    files.text.push(...real.filter(isText));
    expect(files.text.length + files.binary.length).to.be.above(50);
    expect(await differing('ply-text', 'ply', files.text)).to.deep.equal([]);
    expect(
      await differing('ply-binary', 'ply', [...files.binary, ...real.filter((path) => !isText(path))]),
    ).to.deep.equal([]);
  });

  it('of models: faces of OBJ, counted as their own reader counts them', async () => {
    const opened = open('obj');
    let compared = 0;
    for (const path of listed('.obj').filter((name) => !name.includes('/invalid/'))) {
      const own = await readFile(path).catch(() => null);
      const bytes = readFileSync(path);
      // Other encodings, numbers that are none, and places that count from the last vertex back, are not in the sheet.
      if (
        bytes.includes(0) ||
        /\d\+e/.test(bytes.toString('latin1')) ||
        own?.facts.kind !== 'model' ||
        /^f .*-\d/m.test(bytes.toString('latin1'))
      )
        continue;
      const { facts } = await readBySheet(opened, 'obj', bytes, path);
      if (facts.kind !== 'model') throw new Error('no model');
      // The own reader takes an object that has lines too for lines alone.
      if (own.facts.triangles === 0) continue;
      expect(facts.triangles, path).to.equal(own.facts.triangles);
      compared++;
    }
    expect(compared).to.be.above(12);
  });

  it('of containers: ustar as tar lists and unpacks it', async () => {
    const names = ['core/formats', 'core/names', 'docs', 'demo', 'contract', 'core/search', 'cli', 'bench'];
    const root = join(import.meta.dirname, '..', '..');
    const opened = open('tar');
    for (const [number, name] of names.entries()) {
      const file = at(`${number}.tar`);
      run('tar', ['--format=ustar', '-cf', file, name], root);
      const bytes = readFileSync(file);
      const there = { bytes, path: file, resolve: () => Promise.resolve(null) };
      const make = opened.result.entries;
      if (!make) throw new Error('no entries');
      const entries = await readFields(opened, '', there, make);
      const told = run('tar', ['-tf', file], root)
        .toString()
        .split('\n')
        .filter((path) => path && !path.endsWith('/'));
      expect(entries.map((entry) => entry.name)).to.deep.equal(told);
      for (const entry of entries)
        expect(Buffer.from(entry.bytes()).equals(readFileSync(join(root, entry.name)))).to.equal(true);
    }
  });

  it('of events: Standard MIDI files as tables, event by event as midi-file reads them', async () => {
    const { parseMidi } = createRequire(import.meta.url)('midi-file') as {
      parseMidi: (bytes: Uint8Array) => {
        tracks: { deltaTime: number; meta?: true; noteNumber?: number }[][];
      };
    };
    const files = run('dpkg', ['-L', 'openttd-openmsx'], folder)
      .toString()
      .split('\n')
      .filter((path) => path.endsWith('.mid'));
    expect(files.length, 'needs openttd-openmsx, 31 pieces of free music').to.be.above(30);
    const opened = open('midi');
    for (const path of files) {
      const bytes = readFileSync(path);
      const there = { bytes, path, resolve: () => Promise.resolve(null) };
      const make = opened.result.table;
      if (!make) throw new Error('no table');
      const [head = '', ...lines] = Buffer.from(await readFields(opened, '', there, make))
        .toString()
        .trimEnd()
        .split(/\r?\n/);
      expect(head).to.equal('delta,status,first,second');
      const told = lines.map((line) => {
        const [delta, status = 0, first] = line.split(',').map(Number);
        const isNote = status >> 4 === 8 || status >> 4 === 9;
        return [delta, status === 255, isNote ? first : null];
      });
      const known = parseMidi(bytes)
        .tracks.flat()
        .map(({ deltaTime, meta, noteNumber }) => [deltaTime, meta === true, noteNumber ?? null]);
      expect(told.length, path).to.equal(known.length);
      expect(told, path).to.deep.equal(known);
    }
  });

  it('of chunks: GLB as a table', async () => {
    const files = listed('.glb');
    expect(files.length).to.be.above(4);
    for (const path of files) {
      // The first version of it has another header.
      if (readFileSync(path)[4] !== 2) continue;
      const { facts } = await readBySheet(open('glb'), 'csv', readFileSync(path), path);
      expect(facts.kind === 'text' && facts.excerpt.split('\n')[1], path).to.match(/^JSON,\d+$/);
    }
  });

  it('are what the published JSON schema says', () => {
    const schema = JSON.parse(readFileSync(join(sheets, 'schema.json'), 'utf8')) as object;
    expect(schema, 'write it anew: worvel format schema').to.deep.equal(
      JSON.parse(JSON.stringify(sheetJsonSchema())),
    );
  });

  it('say where a file of another form does not fit', async () => {
    const text = Buffer.from('solid one\nfacet normal 0 0 1\n'.repeat(9));
    const { message } = await failureOf(readBySheet(open('stl'), 'stl', text, 'one.stl'));
    expect(message).to.match(/^it does not fit the sheet “Binary STL”: at 0x54: triangles: count [\d,]+: /);
    const bmp = await failureOf(readBySheet(open('bmp'), 'bmp', Buffer.from('PNG, I am'), 'x.bmp'));
    expect(bmp.message).to.equal(
      'it does not fit the sheet “Windows bitmap”: at 0x0: mark: it is “PN”, and must be “BM”',
    );
  });
});
