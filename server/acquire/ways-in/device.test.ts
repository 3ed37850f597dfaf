import { expect } from 'chai';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { copyDevice, lookAtDevice, type Device } from './device.ts';
import { readHoleMark } from './hole-mark.ts';

const sector = 2048;

/** A device that reads badly: ranges that touch a bad sector fail, some of them only for a while. */
describe('Copying a device', () => {
  const size = 700 * 1024 + 300;
  const bytes = randomBytes(size);
  let server: Server;
  let url: string;
  let place: string;
  /** Numbers of sectors that never read, and how often others fail. */
  let dead: Set<number>;
  let tired: Map<number, number>;
  let asked: [number, number][];
  let givesRanges: boolean;
  const device: Device = { label: 'disc', releasedAt: '2026-05-01T00:00:00Z', size, image: 'image' };
  const signal = new AbortController().signal;
  before(async () => {
    server = createServer((request, response) => {
      if (request.url === '/device.json') {
        response.end(JSON.stringify(device));
        return;
      }
      const [, from, to] = /^bytes=(\d+)-(\d+)$/.exec(request.headers.range ?? '') ?? [];
      if (!givesRanges || from === undefined || to === undefined) {
        response.end(bytes);
        return;
      }
      const [start, end] = [Number(from), Number(to) + 1];
      asked.push([start, end]);
      for (let at = Math.floor(start / sector); at * sector < end; at++) {
        const left = tired.get(at) ?? 0;
        if (left > 0) tired.set(at, left - 1);
        if (dead.has(at) || left > 0) {
          response.writeHead(500).end();
          return;
        }
      }
      response.writeHead(206, { 'Content-Range': `bytes ${start}-${end - 1}/${size}` });
      response.end(bytes.subarray(start, end));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  after(() => server.close());
  beforeEach(() => {
    place = mkdtempSync(join(tmpdir(), 'worvel-device-'));
    dead = new Set();
    tired = new Map();
    asked = [];
    givesRanges = true;
  });
  afterEach(() => rmSync(place, { recursive: true, force: true }));

  const copy = (onProgress: (bytes: number, total: number) => void = () => undefined, stop = signal) =>
    copyDevice(place, url, device, stop, onProgress);

  it('asks what the device is, and copies it in ranges with its progress', async () => {
    expect(await lookAtDevice(url, signal)).to.deep.equal(device);
    const told: number[] = [];
    const { image, bad } = await copy((done, total) => {
      expect(total).to.equal(size);
      told.push(done);
    });
    expect(bad).to.deep.equal([]);
    expect(readFileSync(image).equals(bytes)).to.equal(true);
    expect(told).to.deep.equal([...told].sort((a, b) => a - b));
    expect(told.at(-1)).to.equal(size);
    expect(readHoleMark(image)).to.equal(null);
  });

  it('tries again in smaller pieces what failed, until it is there', async () => {
    tired = new Map([
      [5, 2],
      [130, 3],
    ]);
    const { image, bad } = await copy();
    expect(bad).to.deep.equal([]);
    expect(readFileSync(image).equals(bytes)).to.equal(true);
    const lengths = asked.map(([start, end]) => end - start);
    expect(Math.min(...lengths)).to.be.at.most(64 * 1024);
  }).timeout(30_000);

  it('fills what stays unreadable with a mark, sector by sector, and nothing else', async () => {
    dead = new Set([7, 8, 200]);
    const { image, bad } = await copy();
    expect(bad).to.deep.equal([
      [7 * sector, 9 * sector],
      [200 * sector, 201 * sector],
    ]);
    const mark = readHoleMark(image);
    const copied = readFileSync(image);
    for (let at = 0; at * sector < size; at++) {
      const [start, end] = [at * sector, Math.min(size, (at + 1) * sector)];
      const expected = dead.has(at) ? Buffer.alloc(end - start, mark ?? '') : bytes.subarray(start, end);
      expect(copied.subarray(start, end).equals(expected), `sector ${at}`).to.equal(true);
    }
  }).timeout(30_000);

  it('goes on where it was stopped, and begins anew where another device is there', async () => {
    const stop = new AbortController();
    let reason = '';
    await copy((done) => {
      if (done >= 512 * 1024) stop.abort(new Error('enough'));
    }, stop.signal).catch((error: unknown) => (reason = String(error)));
    expect(reason).to.include('enough');
    asked = [];
    const { image } = await copy();
    expect(readFileSync(image).equals(bytes)).to.equal(true);
    expect(Math.min(...asked.map(([start]) => start))).to.equal(512 * 1024);
    // The copy is whole: nothing more is asked for.
    asked = [];
    await copy();
    expect(asked).to.deep.equal([]);
    await copyDevice(place, url, { ...device, label: 'another disc' }, signal, () => undefined);
    expect(asked.length).to.be.greaterThan(2);
  });

  it('says so where the device gives no ranges', async () => {
    givesRanges = false;
    let reason = '';
    await copy().catch((error: unknown) => (reason = String(error)));
    expect(reason).to.include('does not give ranges');
  });

  it('begins anew where what it knew of its state is damaged', async () => {
    await copy();
    writeFileSync(join(place, 'device.json'), JSON.stringify({ size, label: 'disc', asked: 'all' }));
    asked = [];
    const { image } = await copy();
    expect(asked.length).to.be.greaterThan(2);
    expect(existsSync(image)).to.equal(true);
  });
});
