import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { FontFacts } from '../../../contract/facts.ts';
import { readBytes, readFile } from '../../../tests/support/read.ts';

/** Against fontconfig's own scanner, on the open fonts that the interface is set in. */
describe('readFont', () => {
  const folder = 'node_modules/@fontsource/literata/files';
  const names = readdirSync(folder).filter((name) => /-(latin|cyrillic|greek)-400-normal\.woff2?$/.test(name));

  for (const name of names)
    it(`${name}: names and characters as fontconfig has them`, async () => {
      const path = join(folder, name);
      const scan = (field: string): string => execFileSync('fc-scan', ['--format', `%{${field}}`, path], { encoding: 'utf8' });
      const { facts, preview } = await readFile(path);
      const font = facts as FontFacts;
      expect(scan('family').split(',')).to.include(font.family);
      const ranges = scan('charset').split(' ').filter((range) => range !== '');
      const characters = ranges.reduce((sum, range) => {
        const [from = '0', to = from] = range.split('-');
        return sum + Number.parseInt(to, 16) - Number.parseInt(from, 16) + 1;
      }, 0);
      // Fontconfig leaves out a few that stand for nothing.
      expect(Math.abs(font.characters - characters)).to.be.at.most(4);
      expect(font.glyphs).to.be.greaterThan(20);
      expect(preview?.rgba.some((value) => value > 0)).to.equal(true);
    });

  it('says that a font is cut short', async () => {
    const bytes = readFileSync(join(folder, names[0] ?? ''));
    await readBytes(bytes.subarray(0, 900), 'x.woff2').then(
      () => expect.fail('it should not be read'),
      (error: Error) => expect(error.message).to.match(/^this font cannot be read: /),
    );
  });
}); // prettier-ignore
