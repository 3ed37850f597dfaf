import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { FilmFacts } from '../../../contract/facts.ts';
import { identify } from '../identify.ts';
import { fingerprintOf, readBytes, readFile } from '../../../tests/support/read.ts';

/** Against ffprobe, on films that ffmpeg packs. */
describe('readFilm', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-film-'));
  after(() => rmSync(folder, { recursive: true }));

  for (const [name, options] of [
    ['film.mp4', ['-c:v', 'mpeg4', '-c:a', 'aac']],
    ['film.webm', ['-c:v', 'libvpx', '-c:a', 'libvorbis']],
    ['film.mkv', ['-c:v', 'libx264', '-c:a', 'flac']],
  ] as const)
    it(`${name}: length, size, rate and tracks as ffprobe has them`, async () => {
      const path = join(folder, name);
      execFileSync('ffmpeg', [
        '-v',
        'error',
        '-f',
        'lavfi',
        '-i',
        'testsrc=size=320x180:rate=25:duration=2',
        '-f',
        'lavfi',
        '-i',
        'sine=frequency=440:duration=2',
        '-metadata:s:a:0',
        'language=deu',
        ...options,
        path,
      ]);
      const probe = JSON.parse(
        execFileSync('ffprobe', ['-v', 'error', '-show_format', '-show_streams', '-of', 'json', path], {
          encoding: 'utf8',
        }),
      ) as {
        format: { duration: string };
        streams: { codec_type: string; width?: number; height?: number; sample_rate?: string }[];
      };
      const facts = (await readFile(path)).facts as FilmFacts;
      expect(facts.seconds).to.be.closeTo(Number(probe.format.duration), 0.05);
      expect(facts.tracks.map(({ sort }) => sort)).to.have.members(
        probe.streams.map(({ codec_type }) => codec_type),
      );
      const picture = facts.tracks.find(({ sort }) => sort === 'video');
      expect(picture).to.include({ width: 320, height: 180 });
      expect(picture?.framesPerSecond).to.be.closeTo(25, 0.6);
      const heard = facts.tracks.find(({ sort }) => sort === 'audio');
      expect(String(heard?.sampleRate)).to.equal(
        probe.streams.find(({ codec_type }) => codec_type === 'audio')?.sample_rate,
      );
      expect(heard?.language).to.match(/^(de|deu|ger)/);
    });

  for (const [name, format, options] of [
    ['film.avi', 'avi', ['-c:v', 'mpeg4', '-c:a', 'libmp3lame']],
    ['film.ogv', 'ogg-film', ['-c:v', 'libtheora', '-c:a', 'libvorbis']],
    ['film.mpg', 'mpeg', ['-c:v', 'mpeg1video', '-c:a', 'mp2']],
    ['pictures.m2v', 'mpeg', ['-c:v', 'mpeg2video', '-an']],
  ] as const)
    it(`${name}: told by its bytes; length, size, rate and tracks as ffmpeg was told to write them, with a picture`, async () => {
      const path = join(folder, name);
      execFileSync('ffmpeg', [
        ...['-v', 'error', '-f', 'lavfi', '-i', 'color=red:size=320x180:rate=25:duration=2'],
        ...['-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=44100:duration=2', ...options, path],
      ]);
      const bytes = readFileSync(path);
      expect(identify(bytes.subarray(0, 1024), 'x')).to.deep.equal({ format, byExtension: false });
      const { facts, preview, decoded } = await readFile(path);
      if (facts.kind !== 'film') throw new Error('it is a film');
      expect(facts.seconds).to.be.closeTo(2, 0.1);
      const [picture, sound] = ['video', 'audio'].map((sort) =>
        facts.tracks.find((track) => track.sort === sort),
      );
      expect(picture).to.include({ width: 320, height: 180, framesPerSecond: 25 });
      expect(sound?.sampleRate).to.equal(name === 'pictures.m2v' ? undefined : 44_100);
      expect(decoded?.length).to.equal(facts.tracks.length);
      expect([preview?.width, preview?.height]).to.deep.equal([320, 180]);
      const [red = 0, green = 255, blue = 255] = preview?.rgba.subarray(4 * 320 * 90, 4 * 320 * 90 + 3) ?? [];
      expect(red).to.be.above(230);
      expect(Math.max(green, blue)).to.be.below(30);
    });

  it('has a picture that is not the black one at its beginning', async () => {
    const path = join(folder, 'black-first.mp4');
    execFileSync('ffmpeg', [
      ...['-v', 'error', '-f', 'lavfi', '-i', 'color=black:size=64x64:rate=25:duration=0.5'],
      ...['-f', 'lavfi', '-i', 'color=red:size=64x64:rate=25:duration=9.5'],
      ...['-filter_complex', '[0][1]concat=n=2:v=1', path],
    ]);
    const { preview } = await readFile(path);
    expect(preview?.rgba[0]).to.be.above(230);
  });

  it('sounds in Ogg are no films, wherever another stream stands first', () => {
    for (const [name, map, format] of [
      ['sound.ogg', ['-map', '1'], 'ogg'],
      ['sound-first.ogv', ['-map', '1', '-map', '0'], 'ogg-film'],
    ] as const) {
      const path = join(folder, name);
      execFileSync('ffmpeg', [
        ...['-v', 'error', '-f', 'lavfi', '-i', 'color=red:size=64x64:rate=5:duration=1'],
        ...['-f', 'lavfi', '-i', 'sine=duration=1', ...map, '-c:v', 'libtheora', '-c:a', 'libvorbis', path],
      ]);
      expect(identify(readFileSync(path).subarray(0, 1024), 'x').format, name).to.equal(format);
    }
  });

  it('has one fingerprint for the same film in another container, as ffmpeg packs it over', async () => {
    const [first, second, other] = ['a.mp4', 'b.mkv', 'c.mp4'].map((name) => join(folder, name)) as [
      string,
      string,
      string,
    ];
    const make = (path: string, rate: number): void =>
      void execFileSync('ffmpeg', [
        '-v',
        'error',
        '-f',
        'lavfi',
        '-i',
        `testsrc=size=160x90:rate=${rate}:duration=1`,
        '-c:v',
        'libx264',
        path,
      ]);
    make(first, 25);
    make(other, 24);
    execFileSync('ffmpeg', ['-v', 'error', '-i', first, '-c', 'copy', second]);
    const print = fingerprintOf(await readFile(first));
    expect(print)
      .to.be.a('string')
      .and.to.equal(fingerprintOf(await readFile(second)));
    expect(print).not.to.equal(fingerprintOf(await readFile(other)));
  });

  it('says that a film cannot be read', async () => {
    const bytes = readFileSync(join(folder, 'film.mp4'));
    await readBytes(bytes.subarray(0, 200), 'x.mp4').then(
      () => expect.fail('it should not be read'),
      (error: Error) => expect(error.message).to.match(/^this film cannot be read: /),
    );
    // A stream of MPEG has no beginning that tells of all: what is there of it is read.
    for (const name of ['film.avi', 'film.ogv']) {
      const path = join(folder, `short-${name}`);
      writeFileSync(path, readFileSync(join(folder, name)).subarray(0, 100));
      await readFile(path).then(
        () => expect.fail(`${name} should not be read`),
        (error: Error) => expect(error.message, name).to.match(/^this film cannot be read: (ffprobe: |it )/),
      );
    }
  });
});
