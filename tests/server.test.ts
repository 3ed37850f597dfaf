import { expect } from 'chai';
import { createServer, request } from 'node:http';
import { createConnection } from 'node:net';
import { writeFileSync, mkdirSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { jobsEventSchema } from '../contract/work.ts';
import { EventReader } from './support/event-reader.ts';
import { TestHouse, testPort } from './support/worvel.ts';

describe('The server', () => {
  const house = new TestHouse();
  const port = testPort(0);
  let url: string;
  before(async () => {
    await house.open();
    mkdirSync(house.path('source'));
    writeFileSync(house.path('source', 'page.html'), '<script>alert(1)</script>');
    await house.index(house.path('source'), 'Served', '1');
    url = await house.serve(port);
  });
  after(() => house.close());

  const ask = (path: string, headers: Record<string, string>, method = 'GET'): Promise<number> =>
    new Promise((resolve, reject) => {
      request({ host: '127.0.0.1', port, path, method, headers }, (answer) => {
        answer.resume();
        resolve(answer.statusCode ?? 0);
      })
        .on('error', reject)
        .end();
    });

  it('answers its own pages only', async () => {
    expect(await ask('/api/titles', { host: `127.0.0.1:${port}` })).to.equal(200);
    expect(await ask('/api/titles', { host: `localhost:${port}` })).to.equal(200);
    expect(await ask('/api/titles', { host: 'rebound.example' })).to.equal(421);
    expect(await ask('/api/titles', { host: `rebound.example:${port}` })).to.equal(421);
    expect(await ask('/', { host: 'rebound.example' })).to.equal(421);
    const own = { host: `127.0.0.1:${port}` };
    expect(await ask('/api/titles', { ...own, origin: 'http://other.example' })).to.equal(403);
    expect(await ask('/api/titles', { ...own, origin: 'null' })).to.equal(403);
    expect(await ask('/api/titles', { ...own, 'sec-fetch-site': 'cross-site' })).to.equal(403);
    expect(await ask('/api/titles', { ...own, origin: `http://127.0.0.1:${port}` })).to.equal(200);
    expect(await ask('/api/intake', { ...own, origin: 'http://other.example' }, 'POST')).to.equal(403);
  });

  it('listens on loopback alone', async () => {
    const { networkInterfaces } = await import('node:os');
    const outside = Object.values(networkInterfaces())
      .flat()
      .find((address) => address && !address.internal && address.family === 'IPv4');
    if (!outside) return;
    const reached = await new Promise((resolve) => {
      createConnection({ host: outside.address, port })
        .on('connect', () => resolve(true))
        .on('error', () => resolve(false));
    });
    expect(reached).to.equal(false);
  });

  it('never lets a content be a page', async () => {
    const asset = (await (await fetch(`${url}/api/asset?channel=1&build=1&path=page.html`)).json()) as {
      hash: string;
      format: string;
    };
    const answer = await fetch(`${url}/api/content/${asset.hash}?format=${asset.format}`);
    expect(answer.headers.get('content-security-policy')).to.include('sandbox');
    expect(answer.headers.get('content-type')).not.to.include('html');
    expect(answer.headers.get('x-content-type-options')).to.equal('nosniff');
  });

  it('sends parts of a content', async () => {
    const asset = (await (await fetch(`${url}/api/asset?channel=1&build=1&path=page.html`)).json()) as {
      hash: string;
    };
    const answer = await fetch(`${url}/api/content/${asset.hash}`, { headers: { range: 'bytes=1-6' } });
    expect(answer.status).to.equal(206);
    expect(answer.headers.get('content-range')).to.equal('bytes 1-6/25');
    expect(await answer.text()).to.equal('script');
    const part = (range: string): Promise<Response> =>
      fetch(`${url}/api/content/${asset.hash}`, { headers: { range } });
    expect((await part('bytes=99-')).status).to.equal(416);
    // The forms of RFC 9110, 14.1.2: from a place on, the last so many, and longer than there is.
    for (const [range, said] of [
      ['bytes=20-', 'bytes 20-24/25'],
      ['bytes=-4', 'bytes 21-24/25'],
      ['bytes=3-9999', 'bytes 3-24/25'],
      ['bytes=0-1,2-5', 'bytes 0-5/25'],
    ] as const) {
      const { status, headers } = await part(range);
      expect([status, headers.get('content-range')], range).to.deep.equal([206, said]);
    }
    // What is no range, and what is several that do not join, is answered with all.
    for (const range of ['bytes=0-1,10-12', 'lines=1-2', 'bytes', 'bytes=b-a'])
      expect((await part(range)).status, range).to.be.oneOf([200, 416]);
  });

  it('says which part of a request does not fit', async () => {
    const answer = await fetch(`${url}/api/findings?channel=1&from=1`);
    expect(answer.status).to.equal(400);
    expect(((await answer.json()) as { error: string }).error).to.match(/^to: /);
    const intake = await fetch(`${url}/api/intake`, {
      method: 'POST',
      body: JSON.stringify({ source: '/nowhere', title: 'T', build: '1' }),
    });
    expect(((await intake.json()) as { error: string }).error).to.equal(
      'The source /nowhere does not exist.',
    );
  });

  it('shares its database with the command line', async () => {
    const { code, output } = await house.run('search', '--title', 'Served', 'page', '--json');
    expect(code).to.equal(0);
    expect(output).to.include('page.html');
    const diff = await house.run('diff', '--title', 'Served', '--from', '1', '--to', '1', '--json');
    expect(diff.output).to.equal(
      '{"summary":{"added":0,"removed":0,"changed":0,"moved":0,"copied":0,"repacked":0,"unchanged":1,"leftOut":0}}\n',
    );
  });

  it('runs once on a data folder, and only on a free port', async () => {
    const second = await house.run('serve', '--port', String(testPort(1)));
    expect(second.code).to.equal(1);
    expect(second.errors).to.match(/^A server runs on .* already, at http:.*\n$/);
    const other = new TestHouse();
    await other.open();
    const taken = createServer().listen(testPort(2), '127.0.0.1');
    const outcome = await other.run('serve', '--port', String(testPort(2)));
    taken.close();
    await other.close();
    expect(outcome).to.deep.include({
      code: 1,
      errors: `Port ${testPort(2)} is taken: choose another with --port.\n`,
    });
  });

  it('runs once, also when two are started at the same moment', async () => {
    const other = new TestHouse();
    await other.open();
    const ports = [testPort(3), testPort(4)];
    const both = ports.map((each) => other.start(['serve', '--port', String(each)]));
    const first = await Promise.race(
      both.map((child, index) => new Promise<number>((resolve) => child.on('exit', () => resolve(index)))),
    );
    expect(other.printed).to.match(/A server runs on .* already/);
    expect(other.printed.match(/Worvel is at/g) ?? []).to.have.length.at.most(1);
    const left = `http://127.0.0.1:${ports[1 - first] ?? 0}`;
    let isUp = false;
    for (const end = Date.now() + 20_000; !isUp && Date.now() < end; await sleep(100))
      isUp = await fetch(`${left}/api/health`).then(
        ({ ok }) => ok,
        () => false,
      );
    expect(isUp).to.equal(true);
    // One that was killed leaves its lock, which does not keep the next one out.
    const killed = new Promise((resolve) => both[1 - first]?.on('exit', resolve));
    both[1 - first]?.kill('SIGKILL');
    await killed;
    await other.serve(ports[0] ?? 0);
    await other.close();
  });

  it('indexes what is asked of it, and tells its progress as events', async () => {
    const events = await EventReader.open(`${url}/api/events`);
    await fetch(`${url}/api/intake`, {
      method: 'POST',
      body: JSON.stringify({ source: house.path('source'), title: 'Served', build: '2' }),
    });
    const { data } = await events.next('jobs', (told) =>
      jobsEventSchema.parse(told).jobs.some(({ build, state }) => build === '2' && state === 'done'),
    );
    // Only what changed: the first build's job was told before.
    expect(jobsEventSchema.parse(data).jobs.map(({ build }) => build)).not.to.include('1');
    await events.close();
  });
});

describe('An unusable place', () => {
  it('is told in one sentence', async () => {
    const house = new TestHouse();
    mkdirSync(house.root, { recursive: true });
    writeFileSync(house.path('data'), 'a file in the way');
    const { code, errors } = await house.run('search', '--title', 'T', 'x');
    expect(code).to.equal(1);
    expect(errors).to.match(
      /^The data folder .* cannot be used: a part of the path is a file and not a folder\.\n$/,
    );
  });
});
