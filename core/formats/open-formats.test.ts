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
import { withoutLoading } from '../kinds/model/from-three.ts';
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

  /** Meshes of Debian’s models in OBJ, by three’s loader, with what it says of odd lines kept to itself. */
  const meshes = async (): Promise<{ name: string; mesh: Mesh }[]> => {
    const { OBJLoader } = await import('three/examples/jsm/loaders/OBJLoader.js');
    return listed('.obj')
      .filter((path) => !/invalid|UTF16|line|mixed/.test(path))
      .flatMap((path) => {
        const root = withoutLoading(() => new OBJLoader().parse(readFileSync(path, 'latin1')));
        root.updateMatrixWorld(true);
        const found: { name: string; mesh: Mesh }[] = [];
        root.traverse((object) => {
          const mesh = object as Mesh;
          const count = (mesh as Partial<Mesh>).geometry?.getAttribute('position')?.count ?? 0;
          if (mesh.isMesh && count > 0) found.push({ name: `${basename(path)}-${found.length}`, mesh });
        });
        return found;
      });
  };

  it('of models: binary STL, written by three from models in OBJ', async () => {
    const { STLExporter } = await import('three/examples/jsm/exporters/STLExporter.js');
    const files = (await meshes()).slice(0, 60).map(({ name, mesh }) => {
      const written = new STLExporter().parse(mesh, { binary: true });
      writeFileSync(at(`${name}.stl`), Buffer.from(written.buffer));
      return at(`${name}.stl`);
    });
    const real = listed('.stl').filter(
      (path) => !readFileSync(path).subarray(0, 5).equals(Buffer.from('solid')),
    );
    expect(files.length + real.length).to.be.above(30);
    expect(await differing('stl', 'stl', [...files, ...real])).to.deep.equal([]);
  });

  it('of models: OBJ of positions, written by three from other ones', async () => {
    const { OBJExporter } = await import('three/examples/jsm/exporters/OBJExporter.js');
    const files = (await meshes()).slice(0, 60).map(({ name, mesh }) => {
      for (const more of ['normal', 'uv', 'color']) mesh.geometry.deleteAttribute(more);
      writeFileSync(at(`${name}.positions.obj`), new OBJExporter().parse(mesh));
      return at(`${name}.positions.obj`);
    });
    expect(files.length).to.be.above(30);
    const opened = open('obj');
    for (const file of files) {
      const [own, sheet] = [
        (await readFile(file)).facts,
        (await readBySheet(opened, 'obj', readFileSync(file), file)).facts,
      ];
      if (own.kind !== 'model' || sheet.kind !== 'model') throw new Error('no model');
      // Names of objects and materials are not in the sheet: the shape is.
      const { triangles, vertices, boundsMetres } = own;
      expect(sheet, file).to.deep.include({ triangles, vertices, boundsMetres });
    }
  });

  it('of models: PLY as text and in both byte orders, written by three from models in OBJ', async () => {
    const { PLYExporter } = await import('three/examples/jsm/exporters/PLYExporter.js');
    const forms = { text: {}, big: { binary: true }, little: { binary: true, littleEndian: true } } as const;
    const files = { text: [] as string[], binary: [] as string[] };
    for (const { name: mesh, mesh: root } of (await meshes()).slice(0, 40)) {
      for (const [form, options] of Object.entries(forms)) {
        // Its types want to be told by a function, which runs a frame later: there are no frames here.
        const written = new PLYExporter().parse(root, undefined as never, options);
        if (!written) continue;
        const name = `${mesh}-${form}.ply`;
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
    const root = join(import.meta.dirname, '..', '..');
    const names = ['core', 'server', 'web'].flatMap((room) =>
      readdirSync(join(root, room), { withFileTypes: true })
        .filter((entry) => entry.isDirectory())
        .map(({ name }) => join(room, name)),
    );
    expect(names.length).to.be.above(30);
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

  it('of chunks: GLB as a table, of files that a general-purpose library writes', async () => {
    const { NodeIO } = await import('@gltf-transform/core');
    const { Document } = await import('@gltf-transform/core');
    const made: { name: string; bytes: Uint8Array }[] = [];
    for (const { name, mesh } of (await meshes()).slice(0, 40)) {
      const document = new Document();
      const buffer = document.createBuffer();
      const array = Float32Array.from(mesh.geometry.getAttribute('position').array);
      const positions = document.createAccessor().setType('VEC3').setArray(array).setBuffer(buffer);
      document.createMesh(name).addPrimitive(document.createPrimitive().setAttribute('POSITION', positions));
      made.push({ name: `${name}.glb`, bytes: await new NodeIO().writeBinary(document) });
    }
    const real = listed('.glb')
      .map((path) => ({ name: path, bytes: new Uint8Array(readFileSync(path)) }))
      // The first version of it has another header.
      .filter(({ bytes }) => bytes[4] === 2);
    expect(made.length + real.length).to.be.above(30);
    for (const { name, bytes } of [...made, ...real]) {
      const { facts } = await readBySheet(open('glb'), 'csv', bytes, name);
      const lines = facts.kind === 'text' ? facts.excerpt.split(/\r?\n/) : [];
      const view = new DataView(bytes.buffer, bytes.byteOffset);
      const json = view.getUint32(12, true);
      expect(lines[1], name).to.equal(`JSON,${json}`);
      expect(lines[2], name).to.match(/^BIN.?,\d+$/);
      expect(Number(lines[2]?.split(',')[1]), name).to.equal(view.getUint32(20 + json, true));
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
