import { existsSync, mkdirSync, openSync, readSync, closeSync, renameSync, rmSync, statSync } from 'node:fs';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { spawnSync } from 'node:child_process';
import { dirname, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { writeBuild } from '../mossline-ferry.ts';

const sectorBytes = 2048;

export interface DeviceFaults {
  bytesPerSecond: number;
  /** Sectors that are never read. */
  dead: ReadonlySet<number>;
  /** Sectors that are read at the third attempt. */
  tired: ReadonlySet<number>;
}

/** A simulated device: the image of a disc, given out slowly and in ranges, with read errors. */
export class Device {
  private readonly image: string;
  private readonly faults: DeviceFaults;
  private readonly attempts = new Map<number, number>();

  constructor(image: string, faults: DeviceFaults) {
    this.image = image;
    this.faults = faults;
  }

  /** Makes the image where it is missing: build 0.1 as a disc, by xorriso, with fixed dates. */
  static async makeImage(image: string): Promise<void> {
    if (existsSync(image)) return;
    const tree = `${image}.tree`;
    mkdirSync(dirname(image), { recursive: true });
    await writeBuild('0.1', tree);
    const fresh = `${image}.new`;
    const { status, stderr, error } = spawnSync(
      'xorriso',
      ['-as', 'mkisofs', '-quiet', '-R', '-J', '--modification-date=2026010100000000', '-o', fresh, tree],
      { encoding: 'utf8' },
    );
    rmSync(tree, { recursive: true });
    if (error ?? status !== 0)
      throw new Error(`The disc of the demo could not be made: ${error?.message ?? stderr}`);
    renameSync(fresh, image);
  }

  async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const path = new URL(request.url ?? '/', 'http://device').pathname;
    const size = statSync(this.image).size;
    if (path === '/device.json') {
      const about = { label: 'disc 1', releasedAt: '2026-09-04T09:00:00Z', size };
      response.writeHead(200, { 'Content-Type': 'application/json' }).end(JSON.stringify(about));
      return;
    }
    const range = /^bytes=(\d+)-(\d+)$/.exec(request.headers.range ?? '');
    if (path !== '/image' || !range) {
      response.writeHead(path === '/image' ? 416 : 404).end();
      return;
    }
    const [start, end] = [Number(range[1]), Math.min(size - 1, Number(range[2]))];
    if (this.fails(start, end)) {
      response.writeHead(503).end('read error\n');
      return;
    }
    const bytes = Buffer.alloc(end - start + 1);
    const file = openSync(this.image, 'r');
    readSync(file, bytes, 0, bytes.length, start);
    closeSync(file);
    await sleep((bytes.length / this.faults.bytesPerSecond) * 1000);
    response
      .writeHead(206, { 'Content-Range': `bytes ${start}-${end}/${size}`, 'Content-Length': bytes.length })
      .end(bytes);
  }

  private fails(start: number, end: number): boolean {
    let failed = false;
    for (let sector = Math.floor(start / sectorBytes); sector * sectorBytes <= end; sector++) {
      if (this.faults.dead.has(sector)) failed = true;
      if (!this.faults.tired.has(sector)) continue;
      const attempt = (this.attempts.get(sector) ?? 0) + 1;
      this.attempts.set(sector, attempt);
      if (attempt < 3) failed = true;
    }
    return failed;
  }
}

/** Where the image of the demo's disc lies. */
export function discPath(folder: string): string {
  return join(folder, 'device', 'disc-1.iso');
}
