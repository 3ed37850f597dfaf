import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expectAccessible } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';

/** A film that browsers play, one that they do not, and one that is cut short. */
function writeTree(folder: string): void {
  const make = (name: string, ...options: string[]): void =>
    void execFileSync('ffmpeg', [
      ...['-v', 'error', '-f', 'lavfi', '-i', 'testsrc=size=320x180:rate=10:duration=6'],
      ...['-f', 'lavfi', '-i', 'sine=frequency=440:duration=6', ...options, join(folder, name)],
    ]);
  make('played.webm', '-c:v', 'libvpx', '-b:v', '300k', '-c:a', 'libvorbis');
  make('camera.mp4', '-c:v', 'mpeg4', '-c:a', 'pcm_s16le', '-f', 'mov');
  make('older.avi', '-c:v', 'msmpeg4v2', '-c:a', 'libmp3lame');
  make('song.ogv', '-c:v', 'libtheora', '-c:a', 'libvorbis');
  make('disc.mpg', '-c:v', 'mpeg2video', '-c:a', 'mp2');
  // What it has stands at its end: without that nothing of it can be found.
  const whole = readFileSync(join(folder, 'camera.mp4'));
  writeFileSync(join(folder, 'short.mp4'), whole.subarray(0, whole.length / 2));
}

describe('Films in the interface', () => {
  const shown = showTree('Films', writeTree);
  const frames = () => shown.page.getByRole('list', { name: 'Frames' }).getByRole('img');
  const areThere = (): Promise<boolean> =>
    frames().evaluateAll(
      (all) =>
        all.length === 24 && (all as HTMLImageElement[]).slice(0, 8).every((one) => one.naturalWidth > 16),
    );

  it('play where the browser can, and show their frames beside: one is played from', async () => {
    await shown.go('played.webm');
    const video = shown.page.locator('video');
    await video.waitFor();
    await shown.page.getByRole('button', { name: 'Frames' }).click();
    await shown.until(areThere, 'frames of the film');
    expect(shown.query('frames')).to.equal('on');
    await expectAccessible(shown.page, 'a film');
    await shown.page.getByRole('button', { name: 'Play from 0:03.1' }).click();
    await video.waitFor();
    await shown.until(
      () => video.evaluate((one) => Math.abs((one as HTMLVideoElement).currentTime - 3.125) < 0.2),
      'the moment of the frame',
    );
  });

  it('are a sheet of frames with their sound where it cannot', async () => {
    await shown.go('camera.mp4');
    await shown.page
      .getByText(/^This browser does not play it.*Below are its frames and its sound/)
      .waitFor();
    await shown.until(areThere, 'frames of the film');
    const sound = shown.page.locator('audio');
    await sound.evaluate((one) => (one as HTMLAudioElement).load());
    await sound.evaluate((one) => void ((one as HTMLAudioElement).preload = 'auto'));
    await sound.evaluate((one) => (one as HTMLAudioElement).play().catch(() => undefined));
    await shown.until(
      () => sound.evaluate((one) => (one as HTMLAudioElement).currentTime > 0.2),
      'the sound of the film',
    );
    await shown.page.setViewportSize({ width: 390, height: 800 });
    await shown.until(areThere, 'frames on a narrow screen');
    await expectAccessible(shown.page, 'a film');
    await shown.page.setViewportSize({ width: 1280, height: 800 });
  });

  for (const name of ['older.avi', 'song.ogv', 'disc.mpg'])
    it(`${name}: are told, with a small picture of their own, and seen and heard`, async () => {
      await shown.go(name);
      await shown.page
        .getByText(/^This browser does not play it.*Below are its frames and its sound/)
        .waitFor();
      await shown.until(areThere, 'frames of the film');
      const sound = shown.page.locator('audio');
      await sound.evaluate((one) => (one as HTMLAudioElement).play().catch(() => undefined));
      await shown.until(
        () => sound.evaluate((one) => (one as HTMLAudioElement).currentTime > 0.2),
        'the sound of the film',
      );
      await shown.page.getByText('320 × 180').first().waitFor();
      await shown.until(
        () =>
          shown.page
            .locator('img[src*="preview"]')
            .evaluateAll((all) => all.some((one) => (one as HTMLImageElement).naturalWidth > 100)),
        'a small picture',
      );
    });

  it('say why where neither is there', async () => {
    await shown.go('short.mp4');
    await shown.page.getByRole('alert').filter({ hasText: 'A problem was found' }).waitFor();
    await shown.page.getByText('This browser does not play it').waitFor();
  });

  it('refuse what is no film, and moments that are none', async () => {
    const asked = async (query: string, hash = '0'.repeat(64)) => {
      const answer = await fetch(`${shown.url}/api/films/${hash}/frame?${query}`);
      return [answer.status, ((await answer.json()) as { error: string }).error] as const;
    };
    expect((await asked('format=png&at=0&width=64'))[1]).to.equal('png is no format of films.');
    expect((await asked('format=__proto__&at=0&width=64'))[1]).to.match(/is no format of films/);
    for (const query of ['at=-1&width=64', 'at=0&width=99999', 'at=x&width=64'])
      expect((await asked(`format=mp4&${query}`))[0]).to.equal(400);
    expect((await asked('format=mp4&at=0&width=64'))[0]).to.be.oneOf([400, 404]);
    expect((await asked('format=mp4&at=0&width=64', 'nothing'))[0]).to.equal(400);
  });
});
