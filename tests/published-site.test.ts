import { expect } from 'chai';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { gltf, stage } from '../demo/models.ts';
import { planks } from '../demo/pictures.ts';
import { createEntry } from '../server/publishing/entries/entries.ts';
import { saveNote } from '../server/publishing/notes/notes.ts';
import { findChannel } from '../server/acquire/builds/builds.ts';
import { change } from '../server/platform/database/rows.ts';
import { putDemoBuild } from './support/demo-builds.ts';
import type { Browser } from 'playwright-core';
import { expectAccessible, openBrowser, openPage, typeInto } from './support/browser.ts';
import { TestHouse, testPort } from './support/worvel.ts';

interface Validator {
  validateBytes(
    bytes: Uint8Array,
    options: { maxIssues: number },
  ): Promise<{ issues: { numErrors: number; messages: unknown[] } }>;
}
const validator = createRequire(import.meta.url)('gltf-validator') as Validator;

describe('A published site', () => {
  const house = new TestHouse();
  const site = house.path('site');
  const read = (path: string): string => readFileSync(join(site, path), 'utf8');
  before(async () => {
    await house.open();
    await house.indexDemo();
    const channelId = await findChannel(house.pool, 'Mossline Ferry', 'main');
    await change(house.pool, "UPDATE titles SET rights = 'All of it is invented <b>here</b>.'");
    const entry = { channelId, internalName: '', summary: '', credits: '', spoiler: false };
    const add = (name: string, state: 'draft' | 'published' | 'withheld', ...paths: string[]) =>
      createEntry(house.pool, { ...entry, name, state, paths }, 'ada');
    await add('Boathouse & pier', 'published', 'models/boathouse/boathouse_l0.gltf');
    await add('White heron', 'published', 'data/models.zip!/birds/gru_white.glb', 'music/white_heron.ogg');
    await add('Fog', 'published', 'data/pictures.zip!/loading/fog.png');
    await add('Unfinished', 'draft', 'RIGHTS.txt');
    await add('Kept back', 'withheld', 'music/crossing.wav');
    await saveNote(
      house.pool,
      {
        channel: channelId,
        path: 'data/models.zip!/birds/gru_white.glb',
        body: '1. Open `models.zip`\n\n<script>alert(1)</script>',
        steps: [],
        revision: 0,
      },
      'ada',
    );
    const { code, errors } = await house.run('publish', '--title', 'Mossline Ferry', '--out', site);
    expect(errors).to.equal('');
    expect(code).to.equal(0);
  });
  after(() => house.close());

  const pages = (): string[] => [
    'index.html',
    ...readdirSync(join(site, 'entries')).map((slug) => `entries/${slug}/index.html`),
  ];

  it('holds what is published and nothing else', () => {
    expect(pages()).to.have.length(4);
    const all = pages().map(read).join('') + read('data/search.json');
    expect(all).to.include('Boathouse &amp; pier').and.include('White heron');
    expect(all).not.to.include('Unfinished');
    expect(all).not.to.include('Kept back');
    expect(all).not.to.include(house.root);
  });

  it('lets its pages load nothing but the site’s own files', () => {
    for (const page of pages()) {
      const policy =
        /<meta http-equiv="Content-Security-Policy" content="([^"]*)"/i.exec(read(page))?.[1] ?? '';
      expect(policy, page).to.match(/^default-src (&#x27;|')none/);
      expect(policy, page).not.to.match(/https?:|\*|unsafe-inline/);
    }
  });

  it('has the statement on rights on every page, as text', () => {
    for (const page of pages())
      expect(read(page)).to.include('All of it is invented &lt;b&gt;here&lt;/b&gt;.');
  });

  it('shows notes without running what is in them, and the build of first appearance', () => {
    const page = read(pages().find((path) => path.includes('white-heron')) ?? '');
    expect(page).to.include('<code>models.zip</code>').and.include('build 0.2');
    expect(page).not.to.include('alert(1)</script>');
  });

  it('names only files that are there, by relative addresses, with their true SHA-256', () => {
    for (const page of pages()) {
      const base = join(site, page, '..');
      for (const [, address = ''] of read(page).matchAll(/(?:src|href|data-model)="([^"]+)"/g)) {
        if (address.startsWith('data:')) continue;
        expect(address, page).not.to.match(/^(\/|https?:)/);
        expect(existsSync(join(base, decodeURI(address))), `${page}: ${address}`).to.equal(true);
      }
    }
    const picture = read(pages().find((path) => path.includes('fog')) ?? '');
    const file = /href="([^"]+fog\.png)"/.exec(picture)?.[1] ?? '';
    const sum = createHash('sha256')
      .update(readFileSync(join(site, 'entries/x', file)))
      .digest('hex');
    expect(picture).to.include(`SHA-256 ${sum}`);
  });

  it('holds models in which the Khronos validator finds no error', async () => {
    const models = readdirSync(join(site, 'files'), { recursive: true, encoding: 'utf8' }).filter((path) =>
      path.endsWith('.glb'),
    );
    expect(models).to.have.length(2);
    for (const model of models) {
      const { issues } = await validator.validateBytes(
        new Uint8Array(readFileSync(join(site, 'files', model))),
        { maxIssues: 0 },
      );
      expect(issues.numErrors, model).to.equal(0);
    }
  });

  it('replaces an earlier edition, and never a folder of something else', async () => {
    expect((await house.run('publish', '--title', 'Mossline Ferry', '--out', site)).code).to.equal(0);
    expect(read('index.html')).to.include('edition 2');
    const other = house.path('other');
    mkdirSync(other);
    writeFileSync(join(other, 'precious.txt'), 'mine');
    const refused = await house.run('publish', '--title', 'Mossline Ferry', '--out', other);
    expect(refused.code).to.equal(1);
    expect(refused.errors).to.match(/holds something else/);
    expect(readdirSync(other)).to.deep.equal(['precious.txt']);
  });
});

/** The site on a plain static file server, below a path that it was not told of. */
describe('A published site in a browser', () => {
  const house = new TestHouse();
  const base = '/some/where';
  let server: Server;
  let browser: Browser;
  let url: string;
  before(async () => {
    await house.open();
    await putDemoBuild('0.2', house.path('0.2'));
    await house.index(house.path('0.2'), 'Mossline Ferry', '0.2');
    const channelId = await findChannel(house.pool, 'Mossline Ferry', 'main');
    const entry = { channelId, summary: '', credits: '', spoiler: false, state: 'published' as const };
    await createEntry(
      house.pool,
      {
        ...entry,
        name: 'White heron',
        internalName: 'gru_white',
        paths: ['data/models.zip!/birds/gru_white.glb'],
      },
      'ada',
    );
    await createEntry(
      house.pool,
      {
        ...entry,
        name: 'Fog over the marsh',
        internalName: 'fog',
        paths: ['data/pictures.zip!/loading/fog.png'],
      },
      'ada',
    );
    await createEntry(
      house.pool,
      {
        ...entry,
        name: 'Lamplight',
        internalName: 'lamplight',
        paths: ['music/lamplight.wav'],
      },
      'ada',
    );
    expect(
      (await house.run('publish', '--title', 'Mossline Ferry', '--out', house.path('site'))).code,
    ).to.equal(0);
    const types: Record<string, string> = {
      html: 'text/html',
      js: 'text/javascript',
      css: 'text/css',
      json: 'application/json',
    };
    server = createServer((request, response) => {
      const path = decodeURI((request.url ?? '').split('?')[0] ?? '').slice(base.length);
      const file = join(house.path('site'), path.endsWith('/') ? `${path}index.html` : path);
      if (!existsSync(file)) response.writeHead(404).end();
      else
        response
          .writeHead(200, {
            'Content-Type': types[file.split('.').at(-1) ?? ''] ?? 'application/octet-stream',
          })
          .end(readFileSync(file));
    });
    const port = testPort(8);
    await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
    url = `http://127.0.0.1:${port}${base}/`;
    browser = await openBrowser();
  });
  after(async () => {
    await browser.close();
    server.close();
    await house.close();
  });

  it('searches without a server, by either name and by parts of a path', async () => {
    const { page, errors } = await openPage(browser);
    await page.goto(url);
    const names = async (query: string): Promise<string[]> => {
      await typeInto(page.getByRole('searchbox'), query);
      return page.locator('#entries strong').allTextContents();
    };
    expect(await names('')).to.have.length(3);
    expect(await names('heron')).to.deep.equal(['White heron']);
    expect(await names('gru')).to.deep.equal(['White heron']);
    expect(await names('loading')).to.deep.equal(['Fog over the marsh']);
    expect(await names('nothing of it')).to.deep.equal([]);
    await page.getByText('No entry matches').waitFor();
    await names('lampl');
    expect(new URL(page.url()).searchParams.get('q')).to.equal('lampl');
    await expectAccessible(page, 'the site’s list');
    expect(errors).to.deep.equal([]);
    await page.close();
  });

  it('shows an entry’s model to turn, its picture, and its sound', async () => {
    const { page, errors } = await openPage(browser);
    await page.goto(url);
    await page.getByRole('link', { name: /White heron/ }).click();
    await page.getByRole('button', { name: 'Turn it in 3D' }).click();
    await page.getByRole('application', { name: /^Model/ }).waitFor();
    await expectAccessible(page, 'the site’s model');
    await page.getByRole('link', { name: 'All entries' }).click();
    await page.getByRole('link', { name: /Fog/ }).click();
    const width = await page
      .getByRole('img', { name: /fog\.png/ })
      .evaluate((image) => (image as HTMLImageElement).naturalWidth);
    expect(width).to.equal(768);
    await page.getByRole('link', { name: 'All entries' }).click();
    await page.getByRole('link', { name: /Lamplight/ }).click();
    await page.locator('audio').waitFor();
    await page.getByText('Mossline Ferry', { exact: false }).first().waitFor();
    await expectAccessible(page, 'the site’s sound');
    expect(errors).to.deep.equal([]);
    await page.close();
  });
});

describe('A model that lacks a file', () => {
  it('is named with what it lacks', async () => {
    const { readGltf } = await import('../core/kinds/model/read/gltf.ts');
    const { nodePlatform: platform } = await import('../server/decode/platform.ts');
    const files = await gltf('pier', stage(3, await planks('p', 32, [150, 110, 70], 3)), 'planks.png', false);
    const bytes = files.get('pier.gltf') ?? new Uint8Array(0);
    const resolve = (missing: string) => (name: string) =>
      Promise.resolve(name === missing ? null : (files.get(name) ?? null));
    expect((await readGltf({ bytes, platform, resolve: resolve('planks.png') })).missing).to.deep.equal([
      'planks.png',
    ]);
    await readGltf({ bytes, platform, resolve: resolve('pier.bin') }).then(
      () => expect.fail('it should not be read'),
      (error: Error) => expect(error.message).to.include('pier.bin'),
    );
  });
});
