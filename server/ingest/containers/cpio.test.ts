import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { linkSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { MemorySource } from './byte-source.ts';
import { listCpio } from './cpio.ts';

/** Against GNU cpio and bsdtar, which write each variant. */
describe('cpio archives', () => {
  let folder = '';
  const names = ['tree', 'tree/a.txt', 'tree/b.bin', 'tree/empty', 'tree/link', 'tree/twin'];
  before(() => {
    folder = mkdtempSync(join(tmpdir(), 'worvel-cpio-'));
    mkdirSync(join(folder, 'tree'));
    writeFileSync(join(folder, 'tree', 'a.txt'), 'the ferry leaves at nine');
    writeFileSync(join(folder, 'tree', 'b.bin'), Buffer.alloc(4099, 7));
    writeFileSync(join(folder, 'tree', 'empty'), '');
    symlinkSync('a.txt', join(folder, 'tree', 'link'));
    linkSync(join(folder, 'tree', 'a.txt'), join(folder, 'tree', 'twin'));
  });
  after(() => rmSync(folder, { recursive: true, force: true }));

  const packed = (format: string): Buffer =>
    execFileSync('cpio', ['-o', '-H', format, '--quiet'], { cwd: folder, input: `${names.join('\n')}\n` });
  const listed = (bytes: Buffer): Record<string, string> => {
    const found: Record<string, string> = {};
    for (const { name, type, size, offset, target, refused } of listCpio(new MemorySource(bytes)))
      found[name] =
        type === 'file' && refused === null
          ? bytes.subarray(offset, offset + size).toString('latin1')
          : `${type} ${target ?? ''}${refused ?? ''}`.trim();
    return found;
  };
  const expected = {
    tree: 'folder',
    'tree/a.txt': 'the ferry leaves at nine',
    'tree/b.bin': '\x07'.repeat(4099),
    'tree/empty': '',
    'tree/link': 'link a.txt',
    'tree/twin': 'the ferry leaves at nine',
  };

  for (const format of ['newc', 'crc', 'odc', 'bin'])
    it(`of ${format} by GNU cpio hold what was packed, hard links too`, () => {
      expect(listed(packed(format))).to.deep.equal(expected);
    });

  it('of newc and odc by bsdtar hold the same', () => {
    for (const format of ['newc', 'odc']) {
      const bytes = execFileSync('bsdtar', [`--format=${format}`, '-cf', '-', 'tree'], { cwd: folder });
      expect(listed(bytes), format).to.deep.equal(expected);
    }
  });

  it('in the other byte order are read too', () => {
    const bytes = packed('bin');
    // Every word of a header turned round, and names and contents as they are (cpio(5), "Old Binary Format").
    for (const { headerOffset } of [...listCpio(new MemorySource(packed('bin')))])
      bytes.subarray(headerOffset, headerOffset + 26).swap16();
    const end = bytes.indexOf(Buffer.from('TRAILER!!!')) - 26;
    bytes.subarray(end, end + 26).swap16();
    expect(listed(bytes)).to.deep.equal(expected);
  });

  it('that are cut short, damaged or hostile say where, and what came before counts', () => {
    const bytes = packed('newc');
    const read = (damaged: Buffer): [string[], string] => {
      const seen: string[] = [];
      try {
        for (const { name } of listCpio(new MemorySource(damaged))) seen.push(name);
      } catch (error) {
        return [seen, (error as Error).message];
      }
      return [seen, ''];
    };
    const short = read(bytes.subarray(0, 1200));
    expect(short[0]).to.include('tree');
    expect(short[1]).to.match(/^it is cut short: /);
    const second =
      [...listCpio(new MemorySource(bytes))].find(({ name }) => name === 'tree/b.bin')?.headerOffset ?? 0;
    const patch = (at: number, text: string): Buffer => {
      const copy = Buffer.from(bytes);
      copy.write(text, second + at, 'latin1');
      return copy;
    };
    expect(read(patch(0, '999999'))[1]).to.equal(`its header at byte ${second} is damaged`);
    expect(read(patch(54, 'zzzzzzzz'))[1]).to.equal(`a number in its header at byte ${second} is damaged`);
    expect(read(patch(54, 'ffffffff'))[1]).to.match(/^it is cut short/);
    expect(read(patch(94, 'ffffffff'))[1]).to.match(/^the length of a name/);
    expect(read(patch(94, '00000000'))[1]).to.match(/^the length of a name/);
  });
});
