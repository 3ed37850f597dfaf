import { expect } from 'chai';
import { pbkdf2Sync, randomBytes } from 'node:crypto';
import { mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { lockedZip, strengths } from '../demo/locked-zip.ts';
import { select } from '../server/platform/database/rows.ts';
import { leavesOf, leavesOfFolder, problemsOf, run } from './support/leaves.ts';
import { codeOf } from '../server/platform/plain-error.ts';
import { TestHouse } from './support/worvel.ts';

const secret = 'heron-under-the-jetty';
const other = 'not-the-key-at-all';

/** Archives locked by Debian's programs, each in its way. */
describe('Locked archives', () => {
  const house = new TestHouse({ hasOwnMariadb: true });
  before(async () => {
    await house.open();
    mkdirSync(house.path('tree', 'in'), { recursive: true });
    writeFileSync(house.path('tree', 'a.txt'), 'reeds and lanterns\n'.repeat(300));
    writeFileSync(house.path('tree', 'in', 'b.bin'), randomBytes(70_000));
    mkdirSync(house.path('source'));
    const make = (program: string, ...args: string[]): void => void run(program, args, house.root);
    make('zip', '-qr', '-P', secret, 'source/traditional.zip', 'tree');
    make('7zz', 'a', '-tzip', '-mem=AES256', `-p${secret}`, 'source/aes256.zip', 'tree');
    make('7zz', 'a', '-tzip', '-mem=AES128', `-p${secret}`, 'source/aes128.zip', 'tree');
    make(
      'bsdtar',
      '--format=zip',
      '--options',
      'zip:encryption=aes256',
      '--passphrase',
      secret,
      '-cf',
      'source/bsdtar.zip',
      'tree',
    );
    make('7zz', 'a', `-p${secret}`, 'source/plain-names.7z', 'tree');
    make('7zz', 'a', '-mhe=on', `-p${secret}`, 'source/hidden-names.7z', 'tree');
    make('zip', '-qr0', 'source/outer.pak', 'source/aes256.zip', 'tree/a.txt');
  });
  after(() => house.close());

  const archives = [
    'traditional.zip',
    'aes256.zip',
    'aes128.zip',
    'bsdtar.zip',
    'plain-names.7z',
    'hidden-names.7z',
  ];
  const addKey = (key: string, ...more: string[]) =>
    house.runWith(`${key}\n`, 'key', 'add', '--title', 'Locked', ...more);

  it('are listed as locked, with what they show of themselves; the rest is read', async () => {
    const result = await house.index(house.path('source'), 'Locked', '1');
    expect(result.locked).to.equal(2 * 5 + 1 + 2);
    const leaves = await leavesOf(house, 'Locked', '1');
    for (const archive of archives.slice(0, 5)) {
      expect(leaves).to.include(`${archive}!/tree/a.txt 5700 unread`);
      expect(leaves).to.include(`${archive}!/tree/in/b.bin 70000 unread`);
    }
    const size = statSync(house.path('source', 'hidden-names.7z')).size;
    expect(leaves).to.include(`hidden-names.7z ${size} unread`);
    expect(
      leaves.filter((leaf) => leaf.startsWith('outer.pak!/tree/a.txt') && !leaf.endsWith('unread')),
    ).to.have.length(1);
    expect(await problemsOf(house, 'Locked', '1')).to.include(
      'aes256.zip!/tree/a.txt: it is locked with a key',
    );
  });

  it('stay as they are under a wrong key, which says so and is not kept', async () => {
    const before = await leavesOf(house, 'Locked', '1');
    const url = await house.serve(house.port);
    const answer = await fetch(`${url}/api/keyring`, {
      method: 'POST',
      body: JSON.stringify({ title: 'Locked', key: other, builds: [] }),
    });
    const { error } = (await answer.json()) as { error?: string };
    expect(answer.status).to.equal(409);
    expect(error).to.include('does not open any of the 7 locked archives');
    expect((await house.run('key', 'list', '--json')).output).to.include('"keys":[]');
    expect(await leavesOf(house, 'Locked', '1')).to.deep.equal(before);
  });

  it('open with the right key, and only they are read again', async () => {
    const contents = await select<{ hash: Buffer }>(house.pool, 'SELECT hash FROM contents');
    const { code, output, errors } = await addKey(secret, '--remark', 'found in the port log');
    expect(code, errors).to.equal(0);
    expect(output).to.include('nothing is locked any more');
    const tree = leavesOfFolder(house.path('tree'));
    for (const archive of archives)
      expect(await leavesOf(house, 'Locked', '1', `${archive}!/tree/`), archive).to.deep.equal(tree);
    expect(await leavesOf(house, 'Locked', '1', 'outer.pak!/source/aes256.zip!/tree/')).to.deep.equal(tree);
    expect(await problemsOf(house, 'Locked', '1')).to.deep.equal([]);
    const after = await select<{ hash: Buffer }>(house.pool, 'SELECT hash FROM contents');
    // b.bin alone is new: a.txt lies open in outer.pak.
    expect(after.length - contents.length).to.equal(1);
  });

  it('equal, once unlocked, what a reading with the key gives', async () => {
    const again = await house.index(house.path('source'), 'Locked', '2');
    expect(again.locked).to.equal(0);
    expect(await leavesOf(house, 'Locked', '2')).to.deep.equal(await leavesOf(house, 'Locked', '1'));
    expect((await house.diff('Locked', '1', '2')).findings).to.deep.equal([]);
  });

  it('never takes what lies there by now for what an older build had', async () => {
    const title = 'Overwritten';
    const game = house.path('game');
    const pack = (words: string): void => {
      run('rm', ['-rf', 'game'], house.root);
      mkdirSync(game);
      writeFileSync(house.path('words.txt'), words);
      run('zip', ['-q', '-P', secret, 'game/a.zip', 'words.txt'], house.root);
      run('7zz', ['a', `-p${secret}`, 'game/b.7z', 'words.txt'], house.root);
      run('7zz', ['a', '-mhe=on', `-p${secret}`, 'game/c.7z', 'words.txt'], house.root);
    };
    pack('of the first build');
    await house.index(game, title, '1');
    pack('of the second one.');
    await house.index(game, title, '2');
    const { output, errors } = await house.runWith(`${secret}\n`, 'key', 'add', '--title', title);
    expect(output, errors).to.include('changed since the build was indexed, and left alone: b.7z');
    expect((await leavesOf(house, title, '1')).every((leaf) => leaf.endsWith('unread'))).to.equal(true);
    expect((await leavesOf(house, title, '2')).some((leaf) => leaf.endsWith('unread'))).to.equal(false);
  });

  it('tries the chosen keys of the build alone, and those of the build before it next time', async () => {
    const title = 'Chosen';
    const add = (key: string, remark: string) =>
      house.runWith(`${key}\n`, 'key', 'add', '--title', title, '--keep', '--remark', remark);
    await house.index(house.path('tree'), title, '0');
    await add(other, 'wrong');
    await add(secret, 'right');
    const list = JSON.parse((await house.run('key', 'list', '--json')).output) as {
      keys: { id: number; title: string; remark: string }[];
    };
    const idOf = (remark: string): string =>
      String(list.keys.find((key) => key.title === title && key.remark === remark)?.id ?? 0);
    const index = (build: string, ...more: string[]) =>
      house.index(house.path('source'), title, build, '--only', '/aes256.zip', ...more);
    expect((await index('1', '--key', idOf('wrong'))).locked).to.equal(2);
    expect((await index('2')).locked).to.equal(2);
    expect((await index('3', '--key', idOf('right'))).locked).to.equal(0);
  });

  it('takes a key in hex or in Base64, and refuses what is neither', async () => {
    const title = 'Raw';
    await house.index(house.path('source'), title, '1', '--only', '/aes256.zip');
    const add = (form: string, key: string) =>
      house.runWith(`${key}\n`, 'key', 'add', '--title', title, '--form', form);
    expect((await add('hex', 'xyz')).errors).to.include('is not hex');
    expect((await add('base64', '§')).errors).to.include('is not Base64');
    expect((await add('hex', Buffer.from(other).toString('hex'))).errors).to.include(
      'does not open any of the 1 locked archive',
    );
    expect((await add('base64', Buffer.from(secret).toString('base64'))).output).to.include(
      'nothing is locked any more',
    );
  });

  it('shows a key nowhere: not in the database, the log, an answer, an edition, a file', async () => {
    const url = `http://127.0.0.1:${house.port}`;
    const seen: string[] = [];
    for (const path of ['keyring', 'titles', 'work', 'sizes'])
      seen.push(await (await fetch(`${url}/api/${path}`)).text());
    seen.push((await house.run('key', 'list', '--json')).output);
    const published = house.path('site');
    await house.run('publish', '--title', 'Locked', '--out', published);
    const tables = await select<{ name: string }>(
      house.pool,
      'SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE()',
    );
    expect(tables.length).to.be.greaterThan(20);
    for (const { name } of tables) {
      const rows = await select<Record<string, unknown>>(house.pool, `SELECT * FROM \`${name}\``);
      for (const row of rows)
        for (const value of Object.values(row))
          seen.push(
            Buffer.isBuffer(value)
              ? value.toString('latin1')
              : typeof value === 'string'
                ? value
                : JSON.stringify(value),
          );
    }
    for (const file of filesBelow(published)) seen.push(readFileSync(file, 'latin1'));
    // All that lies in the data folder: store, log, server.json, the tables' own files.
    for (const file of filesBelow(house.data)) seen.push(readIfThere(file));
    seen.push(house.printed);
    for (const key of [secret, other])
      for (const form of [key, Buffer.from(key).toString('hex'), Buffer.from(key).toString('base64')])
        expect(
          seen.some((text) => text.includes(form)),
          form,
        ).to.equal(false);
    expect(statSync(join(house.data, 'master.key')).mode & 0o777).to.equal(0o600);
  });
});

/** Entries made after the published description of AE-2 by Node's OpenSSL alone (see `lockedZip`), read by the application. */
describe('AE-2, from its description', () => {
  const house = new TestHouse({ hasOwnMariadb: true });
  before(() => house.open());
  after(() => house.close());

  it('uses PBKDF2 as RFC 6070 has it', () => {
    // RFC 6070, section 2, the second and the fifth vector.
    expect(pbkdf2Sync('password', 'salt', 2, 20, 'sha1').toString('hex')).to.equal(
      'ea6c014dc72d6f8ccd1ed92ace1d41f0d8de8957',
    );
    expect(
      pbkdf2Sync(
        'passwordPASSWORDpassword',
        'saltSALTsaltSALTsaltSALTsaltSALTsalt',
        4096,
        25,
        'sha1',
      ).toString('hex'),
    ).to.equal('3d2eec4fe41c849b80c8d83662c0e44a8b291a964cf2f07038');
  });

  for (const [strength, keyBytes] of strengths) {
    it(`reads an entry of ${keyBytes * 8} bits`, async () => {
      const text = Buffer.from('a landing stage among marsh islands\n'.repeat(50));
      const folder = house.path(`ae${strength}`);
      mkdirSync(folder);
      writeFileSync(
        join(folder, 'made.zip'),
        lockedZip(new Map([['stage.txt', text]]), {
          passphrase: secret,
          strength,
          salt: (_, length) => randomBytes(length),
        }),
      );
      const title = `AE ${strength}`;
      await house.index(folder, title, '1');
      const { output, errors } = await house.runWith(`${secret}\n`, 'key', 'add', '--title', title);
      expect(output, errors).to.include('nothing is locked any more');
      const [leaf] = await leavesOf(house, title, '1', 'made.zip!/');
      writeFileSync(join(folder, 'stage.txt'), text);
      expect(leavesOfFolder(folder)).to.include(leaf);
    });
  }
});

/** Temporary tables come and go meanwhile. */
function readIfThere(file: string): string {
  try {
    return readFileSync(file, 'latin1');
  } catch (error) {
    if (codeOf(error) === 'ENOENT') return '';
    throw error;
  }
}

function filesBelow(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true, recursive: true }).flatMap((item) =>
    item.isFile() ? [join(item.parentPath, item.name)] : [],
  );
}
