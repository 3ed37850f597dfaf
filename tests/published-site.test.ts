import { expect } from 'chai';
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { HtmlValidate } from 'html-validate';
import { LinkChecker, LinkState } from 'linkinator';
import { gltf, stage } from '../demo/models.ts';
import { planks } from '../demo/pictures.ts';
import { firstNotes } from '../demo/first-notes.ts';
import type { EntryInput } from '../contract/catalogue.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { createEntry, findEntry, removeEntry, saveEntry } from '../server/publishing/entries/entries.ts';
import { saveNote } from '../server/publishing/notes/notes.ts';
import { saveSite } from '../server/publishing/site-settings.ts';
import { siteSettingsSchema } from '../contract/catalogue.ts';
import { findChannel, findTitleOf } from '../server/acquire/builds/builds.ts';
import { change } from '../server/platform/database/rows.ts';
import type { Browser } from 'playwright-core';
import { expectAccessible, openBrowser, openPage, typeInto } from './support/browser.ts';
import { TestHouse, testPort } from './support/worvel.ts';

const require = createRequire(import.meta.url);
interface Validator {
  validateBytes(
    bytes: Uint8Array,
    options: { maxIssues: number },
  ): Promise<{ issues: { numErrors: number; messages: unknown[] } }>;
}
const validator = require('gltf-validator') as Validator;
const jsonld = require('jsonld') as {
  expand(value: unknown, options: object): Promise<Record<string, unknown>[]>;
};

const title = 'Mossline Ferry';
const address = 'https://example.org/marsh/';

function filesBelow(folder: string): string[] {
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((path) => statSync(join(folder, path)).isFile())
    .sort();
}

/** By Python’s own reader. @throws where it is not well-formed */
function parseXml(file: string): void {
  execFileSync('/usr/bin/python3', [
    '-c',
    'import sys, xml.etree.ElementTree as t; t.parse(sys.argv[1])',
    file,
  ]);
}

/** `worvel verify`, which asks no data folder. */
function verify(folder: string): { code: number | null; output: string; errors: string } {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [join(applicationRoot, 'dist', 'node', 'cli.js'), 'verify', folder],
    { encoding: 'utf8' },
  );
  return { code: status, output: stdout, errors: stderr };
}

/** What stands nowhere but in what is withheld. */
const marks = {
  name: 'Qwelldrake the Hidden',
  internalName: 'zz_qwelldrake_int',
  alias: 'Oldmurk Qwelldrake',
  summary: 'qwelldrake summary words',
  path: 'secret/qwelldrake_body.txt',
  content: 'the qwelldrake content itself',
};

describe('A published site', () => {
  const house = new TestHouse();
  const site = house.path('site');
  const read = (path: string): string => readFileSync(join(site, path), 'utf8');
  const publish = (...more: string[]) => house.run('publish', '--title', title, '--out', site, ...more);
  let channelId = 0;
  let titleId = 0;
  const add = (entry: Omit<EntryInput, 'channelId'>) =>
    createEntry(house.pool, { ...entry, channelId }, 'ada');
  let withheldId = 0;
  before(async () => {
    await house.open();
    await house.indexDemo();
    // A third build with what is to be withheld.
    mkdirSync(house.path('0.3', 'secret'), { recursive: true });
    writeFileSync(house.path('0.3', 'secret', 'qwelldrake_body.txt'), marks.content);
    writeFileSync(house.path('0.3', 'secret', 'copy_elsewhere.txt'), marks.content);
    writeFileSync(house.path('0.3', 'RIGHTS.txt'), 'as before');
    await house.index(house.path('0.3'), title, '0.3');
    channelId = await findChannel(house.pool, title, 'main');
    titleId = await findTitleOf(house.pool, channelId);
    await change(house.pool, "UPDATE titles SET rights = 'All of it is invented <b>here</b>.'");
    await saveSite(
      house.pool,
      titleId,
      siteSettingsSchema.parse({ address, lead: 'What stands among the reeds.', accent: '#2f5f8a' }),
    );
    const state = 'published' as const;
    const boathouse = await add({
      ...{ name: 'Boathouse & pier', state, paths: ['models/boathouse/boathouse_l0.gltf'] },
      details: { thing: 'House', tags: ['wood & nails', 'pier'], downloads: true },
    });
    await add({
      ...{ name: 'White heron', internalName: 'gru_white', state, spoiler: true },
      paths: ['data/models.zip!/birds/gru_white.glb'],
      details: { names: [{ language: 'de', name: 'Weißer Reiher' }], aliases: ['Snowy'], thing: 'Bird' },
    });
    await add({
      ...{
        name: 'Fog',
        state,
        paths: ['data/pictures.zip!/loading/fog.png'],
        summary: 'Fog. <script>alert(2)</script>',
      },
      details: { tags: ['pier'], downloads: true, relations: [{ as: 'part of', entry: boathouse.id }] },
    });
    await add({ name: 'Lamplight', state, paths: ['music/lamplight.wav'] });
    await add({ name: 'Unfinished', state: 'draft', paths: ['RIGHTS.txt'] });
    const withheld = await add({
      ...{ name: marks.name, internalName: marks.internalName, summary: marks.summary, state: 'withheld' },
      paths: [marks.path],
      details: { aliases: [marks.alias], withheldWhy: 'not before the anniversary' },
    });
    withheldId = withheld.id;
    // What is withheld lies within a published entry, too: by its path, and as a copy.
    await add({ name: 'Two texts', state, paths: ['secret/copy_elsewhere.txt', marks.path, 'RIGHTS.txt'] });
    for (const note of firstNotes(applicationRoot))
      await saveNote(house.pool, { ...note, channel: channelId, revision: 0 }, 'ada');
    const fog = 'data/pictures.zip!/loading/fog.png';
    await saveNote(
      house.pool,
      {
        channel: channelId,
        path: fog,
        steps: [],
        body: `1. Open \`x\`\n\n<script>alert(1)</script> [two](#y)`,
        revision: 1,
      },
      'ada',
    );
    await saveNote(
      house.pool,
      { channel: channelId, path: 'RIGHTS.txt', steps: [], body: `Lies beside ${marks.path}.`, revision: 0 },
      'ada',
    );
    const { code, errors } = await publish();
    expect(code, errors).to.equal(0);
  });
  after(() => house.close());

  const pages = (): string[] => filesBelow(site).filter((path) => path.endsWith('.html'));
  const pageOf = (word: string): string =>
    pages().find((path) => path.includes(`entries/`) && path.includes(word)) ?? '';

  it('holds what is published and nothing else', () => {
    const all = filesBelow(site).map(read).join('');
    expect(all).to.include('Boathouse &amp; pier').and.include('White heron');
    expect(all).not.to.include('Unfinished');
    expect(all).not.to.include(house.root);
  });

  it('holds nothing of what is withheld: no word, no path, no content, no sum, in no file and no name', async () => {
    const forbidden = [
      ...Object.values(marks),
      'qwelldrake',
      'copy_elsewhere',
      'not before the anniversary',
      execFileSync('sha256sum', { input: marks.content, encoding: 'utf8' }).slice(0, 64),
      (await findEntry(house.pool, withheldId)).assets[0]?.hash?.slice(0, 16) ?? 'no hash',
    ];
    for (const path of filesBelow(site)) {
      const text = `${path}\n${readFileSync(join(site, path), 'latin1')}`.toLowerCase();
      for (const word of forbidden)
        expect(text.includes(word.toLowerCase()), `${word} in ${path}`).to.equal(false);
    }
    expect(pageOf('two-texts')).not.to.equal('');
    expect(read(pageOf('two-texts'))).to.include('RIGHTS.txt');
  });

  it('is told with what was left out, and how to mend it', async () => {
    const { output } = await publish();
    expect(output).to.include('Two texts: One of its assets is withheld');
    expect(output).to.include(
      'The note on RIGHTS.txt names something that is withheld: the note is left out.',
    );
  });

  it('lets its pages load nothing but the site’s own files', () => {
    for (const page of pages()) {
      if (read(page).includes('http-equiv="refresh"')) continue;
      const policy =
        /<meta http-equiv="Content-Security-Policy" content="([^"]*)"/i.exec(read(page))?.[1] ?? '';
      expect(policy, page).to.match(/^default-src (&#x27;|')none/);
      expect(policy, page).not.to.match(/https?:|\*|unsafe-inline/);
    }
  });

  it('has the statement on rights on every page, as text', () => {
    for (const page of pages())
      if (!read(page).includes('http-equiv="refresh"'))
        expect(read(page), page).to.include('All of it is invented &lt;b&gt;here&lt;/b&gt;.');
  });

  it('is HTML in which html-validate finds nothing wrong', async () => {
    // What the standard says; how it is laid out is nobody’s business.
    const validate = new HtmlValidate({
      extends: ['html-validate:standard'],
      rules: { 'no-inline-style': 'off' },
    });
    for (const page of pages()) {
      const report = await validate.validateString(read(page));
      const found = report.results.flatMap(({ messages }) =>
        messages
          .filter(({ severity }) => severity === 2)
          .map(({ ruleId, message }) => `${ruleId}: ${message}`),
      );
      expect(found, page).to.deep.equal([]);
    }
  });

  it('shows notes without running what is in them, step by step', () => {
    const page = read(pageOf('fog'));
    expect(page).to.include('<code>x</code>');
    expect(page).not.to.include('<script>alert');
    const boathouse = read(pageOf('boathouse'));
    expect(boathouse).to.include('Take out models/boathouse/boathouse_l0.gltf of build 0.2.');
    const note = JSON.parse(read(pageOf('boathouse').replace('.html', '.note-1.json'))) as {
      steps: { does: string }[];
    };
    expect(note.steps.map(({ does }) => does)).to.deep.equal(['bring in', 'find', 'take out']);
  });

  it('covers spoilers until somebody asks: in lists, on their page, in feeds and in previews elsewhere', () => {
    const list = read('lists/all/all-1ev5/index.html');
    const open = list.replace(/<details class="cover">.*?<\/details>/gs, '');
    expect(list).to.include('White heron');
    expect(/.{60}heron.{40}/is.exec(open)?.[0] ?? '').to.equal('');
    const page = read('entries/2.html');
    const head = page.slice(0, page.indexOf('<body'));
    expect(head).not.to.include('heron');
    expect(page.replace(/<details class="cover">.*?<\/details>/gs, '')).not.to.match(/White heron|gru_white/);
    for (const feed of [
      'feeds/entries.atom',
      'feeds/entries.json',
      'data/entries.csv',
      'data/entries.json',
      'sitemap.xml',
    ])
      expect(read(feed), feed).not.to.match(/heron|gru_white/i);
  });

  it('tells what each build brought', () => {
    const builds = read('builds/index.html');
    expect(builds).to.match(/0\.2<\/a>.*?1 new|changed/s);
    const build = readdirSync(join(site, 'builds')).find((name) => name.startsWith('main-0-2')) ?? '';
    expect(read(`builds/${build}/index.html`))
      .to.include('Changed with it')
      .and.include('Lamplight');
  });

  it('offers files only where the entry says so', () => {
    expect(read(pageOf('boathouse'))).to.include('download');
    expect(read(pageOf('lamplight'))).not.to.include(' download');
  });

  it('names only files that are there, by relative addresses, as a crawler finds', async () => {
    for (const page of pages())
      for (const [, to = ''] of read(page).matchAll(/(?:src|href|data-model)="([^"]+)"/g)) {
        if (to.startsWith('data:') || to.startsWith(address) || to.startsWith('#')) continue;
        expect(to, page).not.to.match(/^(\/|https?:)/);
        const path = decodeURI(to.split(/[?#]/)[0] ?? '');
        expect(existsSync(join(site, page, '..', path)), `${page}: ${to}`).to.equal(true);
      }
    const checker = new LinkChecker();
    const { passed, links } = await checker.check({
      ...{ path: ['index.html'], serverRoot: site, recurse: true, checkFragments: true },
      linksToSkip: [address],
    });
    expect(
      links.filter(({ state }) => state === LinkState.BROKEN).map(({ url, parent }) => `${parent}: ${url}`),
    ).to.deep.equal([]);
    expect(passed).to.equal(true);
    expect(links.length).to.be.above(20);
  });

  it('has feeds by their standards, with addresses below the one that was given', () => {
    for (const name of ['entries', 'builds']) {
      // Well-formed by Python’s reader; what Atom asks for, RFC 4287, 4.1.1 and 4.1.2.
      parseXml(join(site, `feeds/${name}.atom`));
      const atom = read(`feeds/${name}.atom`);
      for (const needed of ['<id>', '<title>', '<updated>', '<author>']) expect(atom).to.include(needed);
      const entries = [...atom.matchAll(/<entry>.*?<\/entry>/gs)].map(([entry]) => entry);
      expect(entries.length).to.be.above(0);
      const ids = entries.map((entry) => /<id>(.*?)<\/id>/.exec(entry)?.[1]);
      expect(new Set(ids).size).to.equal(ids.length);
      for (const entry of entries) {
        expect(entry).to.match(/<updated>\d{4}-\d\d-\d\dT[\d:.]+Z<\/updated>/);
        expect(entry).to.include(`href="${address}`);
      }
      // JSON Feed 1.1: what a feed and an item must have.
      const json = JSON.parse(read(`feeds/${name}.json`)) as {
        version: string;
        title: string;
        items: { id: string; url: string; content_html?: string; content_text?: string }[];
      };
      expect(json.version).to.equal('https://jsonfeed.org/version/1.1');
      for (const item of json.items) {
        expect(item.id).to.be.a('string').and.not.equal('');
        expect(item.content_html ?? item.content_text).to.be.a('string');
      }
    }
    expect(read('feeds/entries.atom')).not.to.include('<script>');
    parseXml(join(site, 'sitemap.xml'));
  });

  it('describes its entries for machines, as an independent reader of JSON-LD finds', async () => {
    const text =
      /<script type="application\/ld\+json">(.*?)<\/script>/s.exec(read(pageOf('boathouse')))?.[1] ?? '';
    // The words of schema.org as they are used here: nothing is fetched.
    const documentLoader = (url: string) => ({
      documentUrl: url,
      contextUrl: null,
      document: { '@context': { '@vocab': 'https://schema.org/' } },
    });
    const [expanded] = await jsonld.expand(JSON.parse(text), { documentLoader });
    expect(expanded?.['@type']).to.deep.equal(['https://schema.org/CreativeWork']);
    expect(expanded?.['https://schema.org/name']).to.deep.equal([{ '@value': 'Boathouse & pier' }]);
    expect(expanded?.['https://schema.org/keywords']).to.deep.equal([{ '@value': 'wood & nails, pier' }]);
  });

  it('is signed: openssl and sha256sum say so, and notice every change', async () => {
    const openssl = (): string =>
      execFileSync(
        'openssl',
        [
          'pkeyutl',
          '-verify',
          '-pubin',
          '-inkey',
          'signing-key.pem',
          '-rawin',
          '-in',
          'SHA256SUMS',
          '-sigfile',
          'SHA256SUMS.sig',
        ],
        { cwd: site, encoding: 'utf8' },
      );
    expect(openssl()).to.include('Signature Verified Successfully');
    execFileSync('sha256sum', ['--check', '--quiet', 'SHA256SUMS'], { cwd: site });
    expect(verify(site).code).to.equal(0);
    const copy = house.path('copy');
    execFileSync('cp', ['-r', site, copy]);
    writeFileSync(join(copy, 'index.html'), 'other');
    rmSync(join(copy, '404.html'));
    writeFileSync(join(copy, 'more.html'), 'more');
    const { code, output } = verify(copy);
    expect(code).to.equal(1);
    for (const line of [
      'index.html was changed.',
      '404.html is missing.',
      'more.html is not part of the edition.',
    ])
      expect(output).to.include(line);
    const sums = readFileSync(join(copy, 'SHA256SUMS'), 'utf8');
    writeFileSync(join(copy, 'SHA256SUMS'), `${sums}${'0'.repeat(64)}  ../../etc/passwd\n`);
    const lying = verify(copy);
    expect(lying.output).to.include('SHA256SUMS was changed after it was signed');
    expect(lying.output).to.include('../../etc/passwd lies outside of the edition.');
    const nothing = verify(house.path('0.3'));
    expect(nothing.code).to.equal(1);
    expect(nothing.errors).to.include('holds no signed edition: it has no SHA256SUMS.');
  });

  it('holds models in which the Khronos validator finds no error', async () => {
    const models = filesBelow(join(site, 'files')).filter((path) => path.endsWith('.glb'));
    expect(models).to.have.length(2);
    for (const model of models) {
      const { issues } = await validator.validateBytes(
        new Uint8Array(readFileSync(join(site, 'files', model))),
        {
          maxIssues: 0,
        },
      );
      expect(issues.numErrors, model).to.equal(0);
    }
  });

  it('is the same, byte by byte, from the same state; the next one writes only what changed', async () => {
    const sums = (): Map<string, string> =>
      new Map(
        read('SHA256SUMS')
          .trim()
          .split('\n')
          .map((line) => [line.slice(66), line.slice(0, 64)]),
      );
    const before = sums();
    const inode = statSync(join(site, pageOf('boathouse'))).ino;
    const other = house.path('other-site');
    expect((await house.run('publish', '--title', title, '--out', other)).code).to.equal(0);
    const own = ['edition.json', 'changes/index.html'];
    for (const [path, sum] of before)
      if (!own.includes(path))
        expect(
          execFileSync('sha256sum', [join(other, path)], { encoding: 'utf8' }).slice(0, 64),
          path,
        ).to.equal(sum);
    const lamplight = pageOf('lamplight');
    const entry = await findEntry(house.pool, Number(/entries\/(\d+)/.exec(lamplight)?.[1]));
    await saveEntry(house.pool, entry.id, { ...entry, name: 'Lamplight at dusk' }, entry.revision, 'ada');
    const { output } = await publish();
    const after = sums();
    expect(output).to.match(/\d+ files? written/);
    const changed = [...after].filter(([path, sum]) => before.get(path) !== sum).map(([path]) => path);
    expect(changed).to.include(lamplight.replace('lamplight', 'lamplight-at-dusk'));
    expect(
      changed.filter((path) => path.startsWith('entries/') && !path.includes('lamplight')),
    ).to.deep.equal([]);
    expect(changed.filter((path) => path.startsWith('files/') || path.startsWith('previews/'))).to.deep.equal(
      [],
    );
    expect(statSync(join(site, pageOf('boathouse'))).ino).to.equal(inode);
    // The old address leads on.
    expect(read(lamplight)).to.include(`url=${entry.id}-lamplight-at-dusk.html`);
    expect(verify(site).code).to.equal(0);
  });

  it('goes back to an earlier edition in one step, without what was withheld since', async () => {
    const fog = await findEntry(house.pool, Number(/entries\/(\d+)/.exec(pageOf('fog'))?.[1]));
    // Whatever it is called by now, and whatever it shows.
    const other = { name: 'Mist', paths: ['RIGHTS.txt'], state: 'withheld' as const };
    await saveEntry(house.pool, fog.id, { ...fog, ...other }, fog.revision, 'ada');
    const { code, output, errors } = await publish('--back-to', '1');
    expect(code, errors + output).to.equal(0);
    const back = pages().find((path) => /entries\/\d+-lamplight\.html$/.test(path)) ?? '';
    expect(read(back)).to.include('<h1>Lamplight</h1>');
    for (const path of filesBelow(site))
      expect(`${path} ${readFileSync(join(site, path), 'latin1')}`, path).not.to.match(
        /fog\.png|loading\/fog/,
      );
    const again = await findEntry(house.pool, fog.id);
    const whole = { name: fog.name, paths: fog.paths, state: 'published' as const };
    await saveEntry(house.pool, fog.id, { ...again, ...whole }, again.revision, 'ada');
    const none = await publish('--back-to', '99');
    expect(none.code).to.equal(1);
    expect(none.errors).to.include('The state of edition 99 is not kept here any more.');
  });

  it('never replaces a folder of something else, and stays as it was where publishing fails', async () => {
    const other = house.path('other');
    mkdirSync(other);
    writeFileSync(join(other, 'precious.txt'), 'mine');
    const refused = await house.run('publish', '--title', title, '--out', other);
    expect(refused.code).to.equal(1);
    expect(refused.errors).to.match(/holds something else/);
    expect(readdirSync(other)).to.deep.equal(['precious.txt']);
    const within = await house.run('publish', '--title', title, '--out', house.path('0.2', 'site'));
    expect(within.code).to.equal(1);
    expect(within.errors).to.include('which Worvel reads: choose another folder.');
    const before = read('SHA256SUMS');
    // A signing key that another master key sealed: the last step fails.
    await change(house.pool, 'UPDATE signing_keys SET sealed = REVERSE(sealed)');
    const failed = await publish();
    expect(failed.code).to.equal(1);
    expect(failed.errors).to.include('cannot be opened: the master key is not the one');
    expect(read('SHA256SUMS')).to.equal(before);
    await change(house.pool, 'UPDATE signing_keys SET sealed = REVERSE(sealed)');
    expect(verify(site).code).to.equal(0);
  });

  it('is handed on as a ZIP, and by a command of one’s own', async () => {
    const zip = house.path('site.zip');
    const { code, errors } = await publish(
      '--zip',
      zip,
      '--and-then',
      'cp edition.json "$WORVEL_SITE/../handed.json"',
    );
    expect(code, errors).to.equal(0);
    execFileSync('unzip', ['-q', zip, '-d', house.path('unpacked')]);
    expect(verify(house.path('unpacked')).code).to.equal(0);
    expect(existsSync(house.path('handed.json'))).to.equal(true);
    const bad = await publish('--and-then', 'exit 3');
    expect(bad.code).to.equal(1);
    expect(bad.errors).to.include('The edition is published; “exit 3” ended with 3.');
  });

  it('keeps no page above 300 kB, and entries below 100 kB with all that they load but pictures', () => {
    const sizes = (page: string): number => {
      const files = new Set([page]);
      for (const [, to = ''] of read(page).matchAll(/(?:src|href)="([^"]+\.(?:css|js))"/g))
        files.add(join(page, '..', to));
      return [...files].reduce((sum, path) => sum + statSync(join(site, path)).size, 0);
    };
    // Fonts that a page of Latin letters asks for.
    const fonts = filesBelow(join(site, 'site'))
      .filter((path) => /latin-\d+-normal.*\.woff2$/.test(path))
      .reduce((sum, path) => sum + statSync(join(site, 'site', path)).size, 0);
    for (const page of pages()) {
      if (read(page).includes('http-equiv="refresh"')) continue;
      expect(sizes(page) + fonts, page).to.be.below(page.startsWith('entries/') ? 100_000 : 300_000);
    }
  });

  it('has an entry no more that was removed, nor its old address', async () => {
    const lamplight = Number(/entries\/(\d+)/.exec(pageOf('lamplight'))?.[1]);
    await removeEntry(house.pool, lamplight, 'ada');
    expect((await publish()).code).to.equal(0);
    expect(pages().filter((path) => path.includes('lamplight'))).to.deep.equal([]);
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
    await house.indexDemo();
    const channelId = await findChannel(house.pool, title, 'main');
    const add = (entry: Omit<EntryInput, 'channelId' | 'state'>) =>
      createEntry(house.pool, { ...entry, channelId, state: 'published' }, 'ada');
    await add({
      ...{ name: 'White heron', internalName: 'gru_white', spoiler: true },
      paths: ['data/models.zip!/birds/gru_white.glb'],
      details: { names: [{ language: 'de', name: 'Weißer Reiher' }] },
    });
    await add({
      ...{ name: 'Fog over the marsh', internalName: 'fog', paths: ['data/pictures.zip!/loading/fog.png'] },
      details: { tags: ['evening'] },
    });
    await add({
      ...{ name: 'Lamplight', internalName: 'lamplight', paths: ['music/lamplight.wav'] },
      details: { tags: ['evening'] },
    });
    await add({ name: 'Boathouse', paths: ['models/boathouse/boathouse_l0.gltf'] });
    expect((await house.run('publish', '--title', title, '--out', house.path('site'))).code).to.equal(0);
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

  it('searches without a server, by names in any language and by parts of a path, and narrows down', async () => {
    const { page, errors } = await openPage(browser);
    await page.goto(url);
    await typeInto(page.getByRole('searchbox'), 'evening');
    await page.keyboard.press('Enter');
    await page.getByText('2 entries', { exact: true }).waitFor();
    const search = async (query: string, count: string): Promise<string[]> => {
      await typeInto(page.getByRole('searchbox'), query);
      await page.locator('#count').getByText(count, { exact: true }).waitFor();
      return page.locator('#found strong').allTextContents();
    };
    expect(await search('fog', '1 entry')).to.deep.equal(['Fog over the marsh']);
    expect(await search('gru', '1 entry')).to.deep.equal(['White heron']);
    expect(await search('reih', '1 entry')).to.deep.equal(['White heron']);
    // Covered until somebody asks.
    expect(await page.getByText('White heron').isVisible()).to.equal(false);
    await page.getByText('A spoiler: a model. Show it').click();
    expect(await page.getByText('White heron').isVisible()).to.equal(true);
    expect(await search('loading', '1 entry')).to.deep.equal(['Fog over the marsh']);
    await search('nothing of it', 'No entry matches. Try a part of a name, or fewer words.');
    await search('evening', '2 entries');
    await page.getByText('Narrow down').click();
    await page.getByRole('button', { name: 'sound (1)' }).click();
    await page.locator('#count').getByText('1 entry', { exact: true }).waitFor();
    expect(new URL(page.url()).search).to.equal('?q=evening&kind=sound');
    await expectAccessible(page, 'the site’s search');
    await page.reload();
    await page.locator('#count').getByText('1 entry', { exact: true }).waitFor();
    expect(errors).to.deep.equal([]);
    await page.close();
  });

  it('is whole without scripts, but for search and 3D', async () => {
    const { page, errors } = await openPage(browser, { javaScriptEnabled: false });
    await page.goto(url);
    await page.getByRole('link', { name: 'Lists' }).click();
    await page.getByRole('link', { name: 'evening' }).click();
    await page.getByRole('link', { name: /Lamplight/ }).click();
    await page.getByRole('heading', { level: 1, name: 'Lamplight' }).waitFor();
    await page.locator('audio').waitFor();
    await page.goto(`${url}search/index.html`);
    expect(await page.locator('noscript').innerText()).to.include('The search needs scripts');
    expect(errors).to.deep.equal([]);
    await page.close();
  });

  it('shows an entry’s model to turn, its picture, and its sound, each page readable by all', async () => {
    const { page, errors } = await openPage(browser);
    await page.goto(url);
    await page.getByRole('link', { name: /Boathouse/ }).click();
    await page.getByRole('button', { name: 'Turn it in 3D' }).click();
    await page.getByRole('application', { name: /^Model/ }).waitFor();
    await expectAccessible(page, 'the site’s model');
    await page.goBack();
    await page.getByRole('link', { name: /Fog/ }).click();
    const width = await page
      .getByRole('img', { name: /fog\.png/ })
      .evaluate((image) => (image as HTMLImageElement).naturalWidth);
    expect(width).to.be.above(100);
    await page.goBack();
    await page.getByRole('link', { name: /Lamplight/ }).click();
    await page.getByRole('button', { name: 'Play its loop' }).waitFor();
    await expectAccessible(page, 'the site’s sound');
    for (const path of [
      'index.html',
      'lists/index.html',
      'builds/index.html',
      'changes/index.html',
      'check/index.html',
    ]) {
      await page.goto(url + path);
      await expectAccessible(page, path);
    }
    const { page: night } = await openPage(browser, {
      colorScheme: 'dark',
      viewport: { width: 390, height: 800 },
    });
    await night.goto(url);
    await expectAccessible(night, 'the front page by night');
    const overflow = await night.evaluate(() => document.documentElement.scrollWidth - innerWidth);
    expect(overflow).to.be.at.most(0);
    await night.close();
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
