import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import type { LocalContent } from '../../store/local-content.ts';
import { filmFrame, filmSound } from './decode-film.ts';

describe('Pictures and sound of a film', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-film-'));
  after(() => rmSync(folder, { recursive: true }));
  const at = (name: string): string => join(folder, name);
  const ffmpeg = (...args: string[]): void =>
    void execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { cwd: folder });
  const contentOf = (name: string, offset = 0, size = statSync(at(name)).size): LocalContent => ({
    ...{ hash: '0'.repeat(64), file: at(name), offset, size },
  });
  /** The colour in the middle. */
  const colourOf = async (jpeg: Buffer): Promise<number[]> => {
    const { data, info } = await sharp(jpeg).removeAlpha().raw().toBuffer({ resolveWithObject: true });
    const middle = (Math.floor(info.height / 2) * info.width + Math.floor(info.width / 2)) * 3;
    return [...data.subarray(middle, middle + 3)];
  };
  const soundOf = async (name: string): Promise<Buffer> => {
    const pieces: Buffer[] = [];
    for await (const piece of filmSound(contentOf(name), 'mp4')) pieces.push(piece);
    return Buffer.concat(pieces);
  };
  const messageOf = (work: Promise<unknown>): Promise<string> =>
    work.then(
      () => '',
      (error: unknown) => (error instanceof Error ? error.message : String(error)),
    );

  before(() => {
    const [red, blue] = ['red', 'blue'].map((colour) => `color=${colour}:size=640x360:rate=10:duration=2`);
    ffmpeg(
      ...['-f', 'lavfi', '-i', red ?? '', '-f', 'lavfi', '-i', blue ?? ''],
      ...['-f', 'lavfi', '-i', 'sine=frequency=440:duration=4'],
      // A coding that browsers do not play; what the file has stands at its end, as cameras write it.
      ...['-filter_complex', '[0][1]concat=n=2:v=1', '-c:v', 'mpeg4', '-q:v', '2', '-c:a', 'aac', 'two.mp4'],
    );
    ffmpeg('-i', 'two.mp4', '-c', 'copy', 'two.mkv');
    ffmpeg('-i', 'two.mp4', '-c', 'copy', '-an', 'silent.mp4');
    ffmpeg('-i', 'two.mp4', '-r', '25', '-c:v', 'mpeg2video', '-q:v', '2', '-c:a', 'mp2', 'two.mpg');
    ffmpeg('-i', 'two.mp4', '-c:v', 'libtheora', '-q:v', '9', '-an', 'two.ogv');
    ffmpeg('-i', 'two.mp4', '-c', 'copy', 'two.avi');
    const film = readFileSync(at('two.mp4'));
    writeFileSync(at('pack'), Buffer.concat([Buffer.alloc(1000, 7), film, Buffer.alloc(500, 9)]));
    writeFileSync(at('short.mp4'), film.subarray(0, film.length / 2));
  });

  it('are those of their moment, no wider than is asked for', async () => {
    for (const [name, format] of [
      ['two.mp4', 'mp4'],
      ['two.mkv', 'webm'],
      ['two.mpg', 'mpeg'],
      ['two.ogv', 'ogg-film'],
      ['two.avi', 'avi'],
    ] as const)
      for (const [seconds, strongest] of [
        [0.5, 0],
        [3.2, 2],
        [3.8, 2],
      ] as const) {
        const frame = await filmFrame(contentOf(name), format, { seconds, width: 320 });
        const { width, height } = await sharp(frame).metadata();
        expect([width, height]).to.deep.equal([320, 180]);
        const colour = await colourOf(frame);
        expect(colour[strongest]).to.be.above(230);
        expect(colour[2 - strongest]).to.be.below(30);
      }
  });

  it('come out of a file that holds other contents as well', async () => {
    const size = statSync(at('two.mp4')).size;
    const frame = await filmFrame(contentOf('pack', 1000, size), 'mp4', { seconds: 3.2, width: 64 });
    expect((await colourOf(frame))[2]).to.be.above(230);
  });

  it('are as long as the film, as ffprobe has it', async () => {
    writeFileSync(at('sound.ogg'), await soundOf('two.mp4'));
    const probe = JSON.parse(
      execFileSync('ffprobe', ['-v', 'error', '-show_streams', '-of', 'json', at('sound.ogg')], {
        encoding: 'utf8',
      }),
    ) as { streams: { codec_name: string; duration: string }[] };
    expect(probe.streams.map(({ codec_name }) => codec_name)).to.deep.equal(['opus']);
    expect(Number(probe.streams[0]?.duration)).to.be.closeTo(4, 0.1);
  });

  it('end at once when nobody wants them any more', async () => {
    ffmpeg('-f', 'lavfi', '-i', 'sine=sample_rate=8000:duration=3000', '-c:a', 'pcm_mulaw', 'long.mov');
    const stop = new AbortController();
    const sound = filmSound(contentOf('long.mov'), 'mp4', stop.signal);
    await sound.next();
    const beganMs = Date.now();
    setTimeout(() => stop.abort(), 50);
    const reason = await messageOf(
      (async () => {
        for await (const piece of sound) expect(piece.length).to.be.above(0);
      })(),
    );
    expect(reason).to.match(/abort/);
    expect(Date.now() - beganMs).to.be.below(1000);
  });

  it('are refused with a reason where there are none', async () => {
    const frame = (name: string, seconds = 0.5): Promise<string> =>
      messageOf(filmFrame(contentOf(name), 'mp4', { seconds, width: 64 }));
    expect(await frame('two.mp4', 100)).to.match(/no picture at this moment/);
    expect(await frame('short.mp4')).to.match(/cannot be taken out of the film: .*moov atom not found/);
    expect(await messageOf(soundOf('silent.mp4'))).to.match(/matches no streams/);
  });

  it('are of the film alone, whatever it says lies elsewhere', async () => {
    const film = at('two.mp4');
    // Lists of other files, which the program would follow if it were left to tell formats apart.
    for (const [name, text] of Object.entries({
      'list.mp4': `#EXTM3U\n#EXT-X-TARGETDURATION:4\n#EXTINF:4,\nfile://${film}\n#EXT-X-ENDLIST\n`,
      'concat.mp4': `ffconcat version 1.0\nfile '${film}'\n`,
    })) {
      writeFileSync(at(name), text);
      const says = await messageOf(filmFrame(contentOf(name), 'mp4', { seconds: 0, width: 64 }));
      expect(says, name).to.match(/cannot be taken out of the film/);
    }
    // Left to itself it does follow them: the test tests something.
    ffmpeg('-safe', '0', '-i', 'concat.mp4', '-frames:v', '1', 'followed.png');
    expect(statSync(at('followed.png')).size).to.be.above(100);
  });
});
