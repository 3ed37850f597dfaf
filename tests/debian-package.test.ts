import { expect } from 'chai';
import { mkdirSync, readdirSync, rmSync } from 'node:fs';
import { leavesOf, leavesOfFolder, run } from './support/leaves.ts';
import { TestHouse } from './support/worvel.ts';

/**
 * A package of Debian is an ar archive that holds TARs under xz: archives in archives, made by nobody here. The package is
 * `sonic-pi-samples` (CC0), which holds FLAC sounds.
 */
describe('A package of open data', () => {
  const house = new TestHouse();
  before(async () => {
    await house.open();
    mkdirSync(house.path('package'));
    try {
      run('apt-get', ['download', 'sonic-pi-samples'], house.path('package'));
    } catch {
      // The lists of packages may be missing or old.
      run('apt-get', ['update'], house.root);
      run('apt-get', ['download', 'sonic-pi-samples'], house.path('package'));
    }
  });
  after(() => house.close());

  it('has the leaves that bsdtar unpacks', async () => {
    const [name = ''] = readdirSync(house.path('package'));
    await house.index(house.path('package'), 'Samples', '1');
    const into = house.path('into');
    mkdirSync(into);
    run('bsdtar', ['-xf', house.path('package', name), '-C', into], house.root);
    const inner = readdirSync(into).filter((file) => /^(data|control)\.tar/.test(file));
    expect(inner).to.have.length(2);
    for (const file of inner) {
      const out = house.path('out');
      mkdirSync(out);
      run('bsdtar', ['-xf', `${into}/${file}`, '-C', out], house.root);
      const leaves = await leavesOf(house, 'Samples', '1', `${name}!/${file}!/`);
      // Compressed single files are opened too: `changelog.gz!/changelog`.
      run(
        'sh',
        [
          '-c',
          'find . -name "*.gz" | while read f; do mkdir "$f!" && n=${f##*/} && gunzip -c "$f" > "$f!/${n%.gz}" && rm "$f"; done',
        ],
        out,
      );
      const expected = leavesOfFolder(out);
      expect(leaves).to.deep.equal(expected);
      if (file.startsWith('data')) expect(leaves.length).to.be.greaterThan(100);
      rmSync(out, { recursive: true });
    }
  });
});
