import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';
import { expectAccessible } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';

const title = 'Sounds';
const rate = 8000;

/** Hearing and seeing sounds in the real interface. */
describe('The viewer of sounds', () => {
  const shown = showTree(title, async (build) => {
    mkdirSync(join(build, 'voices'), { recursive: true });
    mkdirSync(join(build, 'text'), { recursive: true });
    const tone = (at: number): number => Math.round(9000 * Math.sin((2 * Math.PI * 440 * at) / rate));
    const samples = Array.from({ length: rate * 2 }, (_, at) => [tone(at), 0]).flat();
    writeFileSync(join(build, 'music.wav'), wave(samples, 2, { start: rate / 2, end: rate - 1 }));
    for (const name of ['heron_bye', 'heron_greet', 'heron_warn'])
      writeFileSync(join(build, 'voices', `${name}.wav`), wave(samples.slice(0, rate), 2));
    writeFileSync(
      join(build, 'text', 'lines.csv'),
      'voice,en,de\nheron_greet,Mind the step!,Vorsicht Stufe!\nheron_bye,See you at dusk.,Bis zur Dämmerung.\n',
    );
    // By another program: what the browser is given has as many samples as that says.
    execFileSync('oggenc', ['-Q', '-o', join(build, 'coded.ogg'), join(build, 'music.wav')]);
  });

  it('has each channel, the tones and the loudness, and what it says of them', async () => {
    await shown.go('music.wav');
    await shown.page.getByRole('img', { name: 'Left, 2.00 s' }).waitFor();
    await shown.page.getByRole('img', { name: 'Tones, 40 Hz to 4 kHz, 2.00 s' }).waitFor();
    // A sine of 9000 / 32768 in one of two channels: −14.2 dBFS at 440 Hz, 3 dB less for one channel; K-weighting takes 0.6 off.
    const label = await shown.page.getByRole('img', { name: /^Loudness/ }).getAttribute('aria-label');
    const [, loudness = '', peak = ''] =
      /−([\d.]+) LUFS in all, true peak −([\d.]+) dBTP/.exec(label ?? '') ?? [];
    expect(Number(peak)).to.be.within(11, 11.4);
    expect(Number(loudness)).to.be.within(14, 15.2);
    await expectAccessible(shown.page, 'a sound');
  });

  it('goes by frames, plays through its loop, and hears one channel alone', async () => {
    await shown.go('music.wav');
    await shown.page.getByRole('img', { name: /^Loudness/ }).waitFor();
    await shown.page.getByRole('group', { name: /^Waveform/ }).focus();
    await shown.page.keyboard.press('ArrowRight');
    for (const key of ['.', '.', ',']) await shown.page.keyboard.press(key);
    await shown.page.getByText('frame 8,001').waitFor();
    await shown.page.getByRole('button', { name: 'Right alone' }).click();
    await shown.until(() => shown.query('channel') === '1', 'the channel in the address');
    await shown.page.getByRole('button', { name: 'Play the loop, 0.50 s to 1.00 s' }).waitFor();
    await shown.page.keyboard.press('Home');
    await shown.page.getByRole('button', { name: 'Play', exact: true }).click();
    // Two seconds long, it would be over by then; the loop goes on.
    await shown.page.waitForTimeout(3000);
    await shown.page.getByRole('button', { name: 'Pause' }).click();
    const frame = Number(
      ((await shown.page.getByText(/^frame /).innerText()).match(/[\d,]+/) ?? [''])[0].replace(',', ''),
    );
    expect(frame).to.be.within(rate / 2 - 800, rate);
    await shown.page.getByRole('button', { name: /^Play the loop/ }).click();
    await shown.until(() => shown.query('loop') === 'none', 'the loop in the address');
  });

  it('goes through a list of voices by two keys, each with its strings', async () => {
    await shown.go('voices/heron_greet.wav');
    const says = shown.page.getByRole('region', { name: 'What it says' });
    await says.getByText('“Mind the step!”').waitFor();
    await says.getByText('“Vorsicht Stufe!”').waitFor();
    expect(await says.locator('[lang=de]').innerText()).to.equal('“Vorsicht Stufe!”');
    await shown.page.getByText('3 sounds here').waitFor();
    await shown.page.keyboard.press('[');
    await shown.until(() => shown.query('path') === 'voices/heron_bye.wav', 'the voice before');
    await says.getByText('“See you at dusk.”').waitFor();
    await shown.page.keyboard.press('[');
    await shown.until(() => shown.query('path') === 'voices/heron_warn.wav', 'the last voice');
    await shown.page.getByRole('heading', { name: 'heron_warn.wav' }).waitFor();
    expect(await says.count()).to.equal(0);
    // Whoever hears one hears the next at once.
    await shown.page.getByRole('button', { name: 'Play', exact: true }).click();
    await shown.page.getByRole('button', { name: 'Pause' }).waitFor();
    await shown.page.keyboard.press(']');
    await shown.until(() => shown.query('path') === 'voices/heron_bye.wav', 'the first voice');
    await shown.page.getByText(/^0\.[1-9]\d s of/).waitFor();
  });

  it('takes a coded sound apart, too', async () => {
    await shown.go('coded.ogg');
    await shown.page.getByRole('img', { name: 'Right, 2.00 s' }).waitFor();
  });

  it('plays through a loop to the sample: after its last frame comes its first', async () => {
    const source = readFileSync('web/viewer/sound/sound-engine.ts', 'utf8');
    const { outputText } = ts.transpileModule(source, {
      compilerOptions: { module: ts.ModuleKind.ESNext, target: ts.ScriptTarget.ES2022 },
    });
    const blank = await shown.browser.newPage();
    const heard = await blank.evaluate(async (code) => {
      const address = URL.createObjectURL(new Blob([code], { type: 'text/javascript' }));
      const { connectSound } = (await import(
        address
      )) as typeof import('../web/viewer/sound/sound-engine.ts');
      // Frames that say which one they are; the second channel says it below zero.
      const context = new OfflineAudioContext(1, 700, 48000);
      const buffer = context.createBuffer(2, 1000, 48000);
      for (let at = 0; at < 1000; at++) {
        buffer.getChannelData(0)[at] = at / 1024;
        buffer.getChannelData(1)[at] = -at / 1024;
      }
      connectSound(context, buffer, {
        ...{ loop: { startFrame: 101, endFrame: 333 }, channel: 1, destination: context.destination },
      }).start(0, 0);
      const made = await context.startRendering();
      return [...made.getChannelData(0)].map((value) => Math.round(-value * 1024));
    }, outputText);
    await blank.close();
    const wanted = Array.from({ length: 700 }, (_, at) => (at <= 333 ? at : 101 + ((at - 101) % 233)));
    expect(heard).to.deep.equal(wanted);
  });
});

/** A WAV file of 16 bits, with a loop where one is given: both its ends belong to it (RIFF’s smpl chunk). */
function wave(samples: readonly number[], channels: number, loop?: { start: number; end: number }): Buffer {
  const data = Buffer.alloc(samples.length * 2);
  samples.forEach((sample, at) => data.writeInt16LE(sample, at * 2));
  const format = Buffer.alloc(16);
  format.writeUInt16LE(1, 0);
  format.writeUInt16LE(channels, 2);
  format.writeUInt32LE(rate, 4);
  format.writeUInt32LE(rate * channels * 2, 8);
  format.writeUInt16LE(channels * 2, 12);
  format.writeUInt16LE(16, 14);
  const chunks = [chunk('fmt ', format), chunk('data', data)];
  if (loop) {
    const smpl = Buffer.alloc(36 + 24);
    smpl.writeUInt32LE(1, 28);
    smpl.writeUInt32LE(loop.start, 36 + 8);
    smpl.writeUInt32LE(loop.end, 36 + 12);
    chunks.push(chunk('smpl', smpl));
  }
  return chunk('RIFF', Buffer.concat([Buffer.from('WAVE'), ...chunks]));
}

function chunk(name: string, body: Buffer): Buffer {
  const head = Buffer.alloc(8);
  head.write(name, 0, 'latin1');
  head.writeUInt32LE(body.length, 4);
  return Buffer.concat([head, body]);
}
