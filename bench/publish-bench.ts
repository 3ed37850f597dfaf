import { spawn } from 'node:child_process';
import {
  createReadStream,
  existsSync,
  mkdirSync,
  mkdtempSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { crc32, deflateSync } from 'node:zlib';
import { chromium } from 'playwright-core';
import { titlesSchema } from '../contract/builds.ts';
import { addressOf } from '../core/catalogue/address.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import type { Pool } from '../server/platform/database/pool.ts';
import { change } from '../server/platform/database/rows.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { pathDigest } from '../server/store/hash.ts';
import { MemoryWatch, familyOf } from './memory.ts';
import { resultOf, type BenchResult } from './result.ts';
import { databasePids, run, waitFor, withPool } from './running.ts';

const worvel = join(applicationRoot, 'worvel');
const title = 'Bench';
const changes = 200;
const side = 24;
const asked = {
  firstSeconds: { what: '50,000 entries with pictures: the first edition, seconds', most: 240 },
  firstMegabytes: { what: 'memory of the server meanwhile, MB', most: 1000 },
  nextSeconds: { what: 'the next edition, with 200 changes, seconds', most: 15 },
  searchSeconds: {
    what: 'first results of a search at 1.6 Mbit/s and 150 ms, from the last letter on, seconds',
    most: 1.5,
  },
  searchKilobytes: { what: 'all that was loaded until then, kB', most: 300 },
  entryKilobytes: { what: 'an entry’s page with what it loads, without pictures, kB', most: 100 },
};

const things = ['lantern', 'heron', 'reed', 'bell', 'ferry', 'pier', 'moss', 'knot', 'oar', 'stage'];
const ways = ['old', 'grey', 'far', 'bright', 'lost', 'quiet', 'tall', 'wet', 'first', 'winter'];

function nameOf(at: number): string {
  return `${ways[at % 10] ?? ''} ${things[Math.floor(at / 10) % 10] ?? ''} ${Math.floor(at / 100)}`;
}

/** A picture that no other is. */
function picture(at: number): Buffer {
  const rows = Buffer.alloc(side * (1 + side * 3));
  let seed = at + 1;
  for (let place = 0; place < rows.length; place++) {
    seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0;
    rows[place] = place % (1 + side * 3) === 0 ? 0 : (seed >>> 27) + (at % 200);
  }
  const chunk = (type: string, data: Buffer): Buffer => {
    const named = Buffer.concat([Buffer.from(type, 'latin1'), data]);
    const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
    length.writeUInt32BE(data.length);
    sum.writeUInt32BE(crc32(named));
    return Buffer.concat([length, named, sum]);
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(side, 0);
  head.writeUInt32BE(side, 4);
  head.set([8, 2], 8);
  return Buffer.concat([
    Buffer.from([137, 80, 78, 71, 13, 10, 26, 10]),
    ...[chunk('IHDR', head), chunk('IDAT', deflateSync(rows, { level: 1 })), chunk('IEND', Buffer.alloc(0))],
  ]);
}

const pathOf = (at: number): string => `set_${Math.floor(at / 500)}/thing_${at}.png`;

async function insertEntries(pool: Pool, count: number): Promise<void> {
  for (let from = 0; from < count; from += 1000) {
    const part = Array.from({ length: Math.min(1000, count - from) }, (_, at) => from + at);
    await change(
      pool,
      `INSERT INTO entries (id, channel_id, name, internal_name, summary, credits, spoiler, state, details, revision, changed_at)
         VALUES ${part.map(() => "(?, 1, ?, ?, ?, '', 0, 'published', ?, 1, NOW(3))").join(', ')}`,
      part.flatMap((at) => [
        ...[at + 1, nameOf(at), `thing_${at}`, `The ${nameOf(at)}, as it stands in the marsh.`],
        JSON.stringify({ thing: things[Math.floor(at / 10) % 10], tags: [ways[at % 10]], downloads: true }),
      ]),
    );
    await change(
      pool,
      `INSERT INTO entry_assets (entry_id, place, path_digest) VALUES ${part.map(() => '(?, 0, ?)').join(', ')}`,
      part.flatMap((at) => [at + 1, pathDigest(pathOf(at))]),
    );
  }
}

/** What publishing a large catalogue takes, and what a reader far away waits for. */
export async function benchPublish(say: (line: string) => void, share = 1): Promise<BenchResult> {
  const count = Math.round(50_000 * share);
  const work = mkdtempSync(join(tmpdir(), 'worvel-publish-'));
  const [data, game, site] = [join(work, 'data'), join(work, 'game'), join(work, 'site')];
  const port = 14_000 + (process.pid % 20_000);
  const url = `http://127.0.0.1:${port}`;
  say(`Making ${count} pictures`);
  for (let at = 0; at < count; at++) {
    if (at % 500 === 0) mkdirSync(join(game, `set_${at / 500}`), { recursive: true });
    writeFileSync(join(game, pathOf(at)), picture(at));
  }
  const server = spawn(worvel, ['serve', '--port', String(port), '--data', data], { stdio: 'ignore' });
  try {
    await waitFor(`${url}/api/health`);
    await run(worvel, ['index', game, '--title', title, '--build', '1', '--data', data]);
    await untilRead(url);
    await withPool(data, (pool) => insertEntries(pool, count));
    const publish = () => run(worvel, ['publish', '--title', title, '--out', site, '--data', data]);
    const watch = new MemoryWatch(() => serverPids(server.pid, data), false);
    const first = await publish();
    const firstMegabytes = watch.stop() / 1e6;
    say(`First edition ${first.seconds.toFixed(1)} s with ${firstMegabytes.toFixed(0)} MB`);
    await withPool(data, async (pool) => {
      await change(
        pool,
        "UPDATE entries SET summary = CONCAT(summary, ' Seen again.'), changed_at = NOW(3) WHERE id % ? = 0",
        [Math.max(1, Math.floor(count / changes))],
      );
    });
    const next = await publish();
    say(`Next edition ${next.seconds.toFixed(1)} s: ${next.output.split('\n')[0] ?? ''}`);
    const search = await searchFarAway(site);
    say(
      `Search ${search.seconds.toFixed(2)} s, ${search.kilobytes.toFixed(0)} kB; one whole index ${search.wholeKilobytes.toFixed(0)} kB`,
    );
    const entry = join(site, 'entries', `${addressOf(1, nameOf(0))}.html`);
    const entryKilobytes = statSync(entry).size / 1000 + search.frameKilobytes;
    return resultOf(
      'publish',
      {
        firstSeconds: first.seconds,
        firstMegabytes,
        nextSeconds: next.seconds,
        searchSeconds: search.seconds,
        searchKilobytes: search.kilobytes,
        entryKilobytes,
      },
      { wholeIndexToSearch: search.wholeKilobytes / search.kilobytes },
      asked,
    );
  } finally {
    const ended = new Promise((resolve) => server.on('exit', resolve));
    server.kill('SIGINT');
    await ended;
    rmSync(work, { recursive: true, force: true });
  }
}

/** The server with its readers, without MariaDB. */
function serverPids(pid: number | undefined, data: string): number[] {
  const apart = new Set(familyOf(databasePids(data)));
  return familyOf(pid === undefined ? [] : [pid]).filter((one) => !apart.has(one));
}

async function untilRead(url: string): Promise<void> {
  for (const end = Date.now() + 900_000; Date.now() < end; await sleep(500)) {
    const [own] = titlesSchema.parse(await (await fetch(`${url}/api/titles`)).json());
    if (own?.channels[0]?.builds[0]?.factsVersion != null) return;
  }
  throw new PlainError('The pictures were not read in fifteen minutes.');
}

const types: Readonly<Record<string, string>> = { html: 'text/html', js: 'text/javascript', css: 'text/css' };

function serveFiles(folder: string): Promise<Server> {
  const server = createServer((request, response) => {
    const file = join(folder, decodeURI((request.url ?? '').split('?')[0] ?? ''));
    if (!existsSync(file) || !statSync(file).isFile()) response.writeHead(404).end();
    else {
      const type = types[file.split('.').at(-1) ?? ''] ?? 'application/octet-stream';
      response.writeHead(200, { 'Content-Type': type, 'Content-Length': statSync(file).size });
      createReadStream(file).pipe(response);
    }
  });
  return new Promise((resolve) => server.listen(0, '127.0.0.1', () => resolve(server)));
}

/** Searches the site in a browser at the far end of a thin line. */
async function searchFarAway(
  site: string,
): Promise<{ seconds: number; kilobytes: number; wholeKilobytes: number; frameKilobytes: number }> {
  const server = await serveFiles(site);
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const session = await page.context().newCDPSession(page);
    await session.send('Network.enable');
    await session.send('Network.emulateNetworkConditions', {
      ...{ offline: false, latency: 150, downloadThroughput: 1_600_000 / 8, uploadThroughput: 1_600_000 / 8 },
    });
    let bytes = 0;
    session.on('Network.loadingFinished', ({ encodedDataLength }) => (bytes += encodedDataLength));
    await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/search/index.html`, {
      waitUntil: 'networkidle',
    });
    const frameBytes = bytes - statSync(join(site, 'search', 'index.html')).size;
    await page.getByRole('searchbox').pressSequentially('lost lantern', { delay: 60 });
    const start = performance.now();
    await page
      .locator('#found strong', { hasText: /lost lantern/ })
      .first()
      .waitFor();
    const seconds = (performance.now() - start) / 1000;
    // Without the pictures, which come when they are looked at.
    const kilobytes = bytes / 1000;
    return {
      seconds,
      kilobytes,
      wholeKilobytes: statSync(join(site, 'data', 'entries.json')).size / 1000,
      frameKilobytes: frameBytes / 1000,
    };
  } finally {
    await browser.close();
    server.close();
  }
}
