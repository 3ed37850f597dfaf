import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { FilmFacts } from '../../../contract/facts.ts';
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
  });
});
