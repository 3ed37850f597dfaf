import { expect } from 'chai';
import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import type { IncomingMessage, Server, ServerResponse } from 'node:http';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { blake3 } from '@napi-rs/blake-hash';
import type { DepotManifest, Follower, Upload } from '../contract/ways-in.ts';
import type { Job } from '../contract/work.ts';
import { lockedZip } from '../demo/locked-zip.ts';
import { Device } from '../demo/stand-ins/device.ts';
import { KeyPost } from '../demo/stand-ins/key-post.ts';
import { listen } from '../demo/stand-ins/serve-stand-ins.ts';
import { leavesOf, leavesOfFolder, problemsOf, run } from './support/leaves.ts';
import { TestHouse, testPort } from './support/worvel.ts';

const passphrase = 'ninth-lantern';

/** A depot that a test fills, and whose faults it chooses. */
class TestDepot {
  readonly asked: string[] = [];
  builds: { label: string; manifest: DepotManifest }[] = [];
  contents = new Map<string, Buffer>();
  /** Contents that are cut off, so many times each. */
  cut = new Map<string, number>();
  wrong = new Set<string>();

  publish(label: string, files: Record<string, Buffer>): void {
    const manifest: DepotManifest = { files: [] };
    for (const [path, bytes] of Object.entries(files)) {
      const hash = blake3(bytes).toString('hex');
      this.contents.set(hash, bytes);
      manifest.files.push({ path, size: bytes.length, blake3: hash });
    }
    this.builds.push({ label, manifest });
  }

  answer(request: IncomingMessage, response: ServerResponse): void {
    const path = new URL(request.url ?? '/', 'http://depot').pathname.slice(1);
    const json = (value: unknown): void => void response.end(JSON.stringify(value));
    if (path === 'builds.json') {
      json({
        title: 'Any',
        builds: this.builds.map(({ label }) => ({
          label,
          releasedAt: '2026-05-01T00:00:00Z',
          manifest: `m/${label}`,
        })),
      });
      return;
    }
    const manifest = this.builds.find(({ label }) => path === `m/${label}`)?.manifest;
    if (manifest) {
      json(manifest);
      return;
    }
    const hash = path.replace('contents/', '');
    const bytes = this.contents.get(hash);
    if (!bytes) {
      response.writeHead(404).end();
      return;
    }
    this.asked.push(hash);
    const cuts = this.cut.get(hash) ?? 0;
    this.cut.set(hash, cuts - 1);
    if (cuts > 0) {
      response.writeHead(200, { 'Content-Length': bytes.length });
      response.write(bytes.subarray(0, 10), () => response.destroy());
      return;
    }
    response.end(this.wrong.has(hash) ? Buffer.alloc(bytes.length) : bytes);
  }
}

describe('Ways in', () => {
  const house = new TestHouse();
  const servers: Server[] = [];
  const depot = new TestDepot();
  let url = '';
  let outSince: string | undefined;
  const depotUrl = `http://127.0.0.1:${testPort(5)}`;
  const postUrl = `http://127.0.0.1:${testPort(6)}`;
  const deviceUrl = `http://127.0.0.1:${testPort(7)}`;

  const ask = async <T>(path: string, method = 'GET', body?: unknown): Promise<T> => {
    const answer = await fetch(`${url}/api/${path}`, {
      method,
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const value = (await answer.json()) as T & { error?: string };
    if (!answer.ok) throw new Error(value.error);
    return value;
  };
  const until = async <T>(look: () => Promise<T | null>): Promise<T> => {
    for (const end = Date.now() + 60_000; Date.now() < end; await sleep(100)) {
      const found = await look();
      if (found !== null) return found;
    }
    throw new Error('it did not come to pass within a minute');
  };
  const lookAt = async (id: number): Promise<Job> => {
    const job = await ask<Job>(`followers/${id}/look`, 'POST', {});
    return until(async () => {
      const now = await ask<Job>(`work/${job.id}`);
      return now.state === 'waiting' || now.state === 'running' ? null : now;
    });
  };
  const follow = (title: string, more: Partial<Follower>): Promise<Follower> =>
    ask('followers', 'POST', { title, kind: 'depot', url: depotUrl, intervalSeconds: 86_400, ...more });

  before(async () => {
    await house.open();
    url = await house.serve(house.port);
    servers.push(await listen(testPort(5), (request, response) => depot.answer(request, response)));
    const post = new KeyPost(new Map([['2', passphrase]]), () => outSince, 0);
    servers.push(await listen(testPort(6), (request, response) => post.answer(request, response)));
  });
  after(async () => {
    for (const server of servers) {
      server.closeAllConnections();
      server.close();
    }
    await house.close();
  });

  const a = randomBytes(50_000);
  const b = randomBytes(5_000_000);
  const locked = lockedZip(new Map([['in.txt', Buffer.from('under the ice')]]), {
    passphrase,
    strength: 3,
    salt: (_, length) => randomBytes(length),
  });

  it('a depot: a new build is seen, fetched, checked and indexed, without a person', async () => {
    depot.publish('1', { 'data/a.bin': a, 'data/b.bin': b, 'same.bin': a });
    depot.cut.set(blake3(b).toString('hex'), 2);
    const { id } = await follow('Depot', {});
    await until(async () =>
      ((await ask<Follower[]>('followers')).find((one) => one.id === id)?.outcome ?? '').includes(
        'Build 1 is in',
      )
        ? true
        : null,
    );
    expect(await leavesOf(house, 'Depot', '1')).to.have.length(3);
    expect(await problemsOf(house, 'Depot', '1')).to.deep.equal([]);
    // Once each, but for the one that was cut off twice.
    expect(depot.asked.filter((hash) => hash === blake3(a).toString('hex'))).to.have.length(1);
    expect(depot.asked.filter((hash) => hash === blake3(b).toString('hex'))).to.have.length(3);
  });

  it('a depot: of the next build only what is not here is fetched', async () => {
    depot.asked.length = 0;
    const c = randomBytes(1000);
    depot.publish('2', { 'data/moved.bin': b, 'same.bin': a, 'c.bin': c, 'locked.zip': locked });
    const [follower] = await ask<Follower[]>('followers');
    const { report } = await lookAt(follower?.id ?? 0);
    expect(report?.summary).to.include('2 files fetched').and.to.include('2 files were here already');
    expect(depot.asked).to.have.members([c, locked].map((bytes) => blake3(bytes).toString('hex')));
    const { findings } = await house.diff('Depot', '1', '2');
    expect(findings.map(({ status, path }) => `${status} ${path}`)).to.deep.equal([
      'added c.bin',
      'removed data/a.bin',
      'moved data/moved.bin',
      'added locked.zip!/in.txt',
    ]);
    expect((await lookAt(follower?.id ?? 0)).report?.summary).to.equal('Nothing is new.');
  });

  it('a depot: a build that was removed does not come again', async () => {
    await house.run('remove', '--title', 'Depot', '--build', '1');
    expect((await ask<{ builds: { label: string }[] }[]>('titles')).length).to.be.greaterThan(0);
    const [follower] = await ask<Follower[]>('followers');
    expect((await lookAt(follower?.id ?? 0)).report?.summary).to.equal('Nothing is new.');
    expect(await leavesOf(house, 'Depot', '1')).to.deep.equal([]);
    expect(await leavesOf(house, 'Depot', '2')).to.have.length(4);
  });

  it('a depot: a content that is not what the manifest says is refused, and the build is not taken in', async () => {
    const d = randomBytes(2000);
    const hash = blake3(d).toString('hex');
    depot.publish('3', { 'd.bin': d });
    depot.wrong.add(hash);
    const [follower] = await ask<Follower[]>('followers');
    const job = await lookAt(follower?.id ?? 0);
    expect(job.state).to.equal('failed');
    expect(job.error).to.include('gave other bytes for d.bin');
    depot.wrong.clear();
    expect((await lookAt(follower?.id ?? 0)).report?.summary).to.include('Build 3 is in');
  });

  it('a depot: a path that leads out of the working copy is refused', async () => {
    depot.publish('4', { '../../evil.bin': Buffer.from('evil') });
    const [follower] = await ask<Follower[]>('followers');
    expect((await lookAt(follower?.id ?? 0)).error).to.include('is refused');
    expect(readdirSync(house.root).includes('evil.bin')).to.equal(false);
    depot.builds.pop();
    await ask(`followers/${follower?.id ?? 0}`, 'DELETE');
  });

  it('a depot that cannot be reached, or is none, is told as that', async () => {
    const gone = await follow('Gone', { url: 'http://127.0.0.1:9/' });
    expect((await lookAt(gone.id)).error).to.include('could not be reached');
    const [told] = (await ask<Follower[]>('followers')).filter(({ id }) => id === gone.id);
    expect(told).to.include({ failed: true });
    const odd = await follow('Odd', { url });
    expect((await lookAt(odd.id)).error).to.match(/did not answer in JSON|answered with 4/);
    for (const { id } of [gone, odd]) await ask(`followers/${id}`, 'DELETE');
  });

  it('a key post: the key comes later, and what it opens is unlocked', async () => {
    const { id } = await follow('Posted', { keyPostUrl: postUrl });
    expect((await lookAt(id)).state).to.equal('done');
    expect(await leavesOf(house, 'Posted', '2', 'locked.zip!/')).to.deep.equal(['in.txt 13 unread']);
    expect((await lookAt(id)).report?.summary).to.equal('Nothing is new.');
    outSince = '2026-05-01T00:00:00Z';
    expect((await lookAt(id)).report?.summary)
      .to.include('The key of build 2 came')
      .and.to.include('1 asset was unlocked');
    expect((await leavesOf(house, 'Posted', '2', 'locked.zip!/'))[0]).to.not.include('unread');
    expect((await lookAt(id)).report?.summary).to.equal('Nothing is new.');
  });

  it('a follower can be paused and set to another pace', async () => {
    const [follower] = (await ask<Follower[]>('followers')).filter(({ title }) => title === 'Posted');
    const changed = await ask<Follower>(`followers/${follower?.id ?? 0}`, 'PATCH', {
      paused: true,
      intervalSeconds: 60,
    });
    expect(changed).to.include({ paused: true, intervalSeconds: 60 });
    await ask(`followers/${follower?.id ?? 0}`, 'PATCH', { intervalSeconds: 1 }).then(
      () => expect.fail('a second is too often'),
      (error: Error) => expect(error.message).to.include('at least 5 seconds'),
    );
  });

  it('a device: what is tired is read again, what is dead is listed, the rest is indexed', async () => {
    const tree = house.path('disc');
    mkdirSync(join(tree, 'in'), { recursive: true });
    for (let file = 0; file < 12; file++)
      writeFileSync(join(tree, 'in', `f${file}.bin`), randomBytes(40_000));
    run('xorriso', ['-as', 'mkisofs', '-quiet', '-R', '-o', house.path('disc.iso'), tree], house.root);
    const image = readFileSync(house.path('disc.iso'));
    // The sector in the middle of the fourth file, and others that come back at the third attempt.
    const dead =
      Math.floor(image.indexOf(readFileSync(join(tree, 'in', 'f3.bin')).subarray(0, 64)) / 2048) + 5;
    const device = new Device(house.path('disc.iso'), {
      bytesPerSecond: 50_000_000,
      dead: new Set([dead]),
      tired: new Set([dead - 60, dead + 60, dead + 61]),
    });
    servers.push(await listen(testPort(7), (request, response) => device.answer(request, response)));
    const { id } = await follow('Disc', { kind: 'device', url: deviceUrl });
    const job = await lookAt(id);
    expect(job.report?.summary).to.include('2.0 kB of it stayed unreadable');
    expect(job.report?.lines).to.deep.equal([`unreadable: bytes ${dead * 2048} to ${dead * 2048 + 2047}`]);
    expect(await problemsOf(house, 'Disc', 'disc 1')).to.deep.equal([
      'f3.bin: parts of it could not be read from the device',
    ]);
    const expected = leavesOfFolder(join(tree, 'in')).map((leaf) =>
      leaf.startsWith('f3.bin') ? 'f3.bin 40000 unread' : leaf,
    );
    expect(await leavesOf(house, 'Disc', 'disc 1')).to.deep.equal(expected.sort());
  });

  describe('uploads', () => {
    const send = async (
      upload: Upload,
      number: number,
      bytes: Buffer,
      offset: number,
      sha256?: string,
    ): Promise<{ received: number }> =>
      ask2(
        `uploads/${upload.id}/files/${number}?offset=${offset}&sha256=${sha256 ?? createHash('sha256').update(bytes).digest('hex')}`,
        bytes,
      );
    const ask2 = async (path: string, bytes: Buffer): Promise<{ received: number }> => {
      const answer = await fetch(`${url}/api/${path}`, { method: 'PUT', body: new Uint8Array(bytes) });
      const value = (await answer.json()) as { received: number; error?: string };
      if (!answer.ok) throw new Error(value.error);
      return value;
    };
    const refused = (work: Promise<unknown>): Promise<string> =>
      work.then(
        () => 'nothing',
        (error: Error) => error.message,
      );
    const files = [
      { path: 'ferry/a.bin', size: 6000 },
      { path: 'ferry/empty', size: 0 },
    ];
    const bytes = randomBytes(6000);

    it('come in chunks that are checked, go on after a restart, and are a source when they are whole', async () => {
      const upload = await ask<Upload>('uploads', 'POST', { name: 'ferry', files });
      expect(await refused(send(upload, 0, bytes.subarray(0, 3000), 0, '0'.repeat(64)))).to.include(
        'damaged on its way',
      );
      expect((await send(upload, 0, bytes.subarray(0, 3000), 0)).received).to.equal(3000);
      // The same chunk again, whose answer was lost; and one that leaves a gap.
      expect((await send(upload, 0, bytes.subarray(0, 3000), 0)).received).to.equal(3000);
      expect(await refused(send(upload, 0, bytes.subarray(4000), 4000))).to.include('begins at byte 3000');
      expect(await refused(send(upload, 0, randomBytes(5000), 3000))).to.include(
        'larger than it was said to be',
      );
      expect(await refused(ask(`uploads/${upload.id}/finish`, 'POST', {}))).to.include(
        'only 3000 of 6000 bytes',
      );
      await house.restart();
      // The same files chosen again.
      const again = await ask<Upload>('uploads', 'POST', { name: 'ferry', files });
      expect(again.id).to.equal(upload.id);
      expect(again.files[0]?.received).to.equal(3000);
      await send(again, 0, bytes.subarray(3000), 3000);
      const finished = await ask<Upload>(`uploads/${upload.id}/finish`, 'POST', {});
      expect(readFileSync(join(finished.source ?? '', 'ferry', 'a.bin')).equals(bytes)).to.equal(true);
      await house.index(finished.source ?? '', 'Uploaded', '1');
      expect((await leavesOf(house, 'Uploaded', '1')).map((leaf) => leaf.split(' ')[0])).to.deep.equal([
        'a.bin',
        'empty',
      ]);
    });

    it('refuse paths that lead elsewhere, and the same path twice', async () => {
      for (const path of ['../x', '/etc/x', 'a/../../x'])
        expect(await refused(ask('uploads', 'POST', { name: 'x', files: [{ path, size: 1 }] }))).to.include(
          'was refused',
        );
      expect(await refused(ask('uploads', 'POST', { name: 'x', files: [files[0], files[0]] }))).to.include(
        'two files are named',
      );
    });

    it('can be thrown away', async () => {
      const upload = await ask<Upload>('uploads', 'POST', { name: 'gone', files: [{ path: 'a', size: 3 }] });
      await send(upload, 0, Buffer.from('abc'), 0);
      await ask(`uploads/${upload.id}`, 'DELETE');
      expect(existsSync(join(house.folder.uploads, `upload-${upload.id}`))).to.equal(false);
      expect(await refused(ask(`uploads/${upload.id}`))).to.include('There is no upload');
    });
  });
});
