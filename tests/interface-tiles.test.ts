import { expect } from 'chai';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { expectAccessible } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';

/** A red ground, blue in the middle of a layer above it, and a green layer over all that is hidden at first. */
async function writeTree(folder: string): Promise<void> {
  const tiles = Buffer.from([...[220, 30, 30], ...[30, 40, 220], ...[30, 200, 60]]);
  await sharp(tiles, { raw: { width: 3, height: 1, channels: 3 } })
    .resize({ width: 48, height: 16, kernel: 'nearest', fit: 'fill' })
    .png()
    .toFile(join(folder, 'tiles.png'));
  const layer = (name: string, tileAt: (x: number, y: number) => number, more = ''): string => {
    const cells = Array.from({ length: 36 }, (_, at) => tileAt(at % 6, Math.floor(at / 6)));
    return `<layer name="${name}" width="6" height="6"${more}><data encoding="csv">${cells.join()}</data></layer>`;
  };
  const isMiddle = (x: number, y: number): boolean => x > 1 && x < 4 && y > 1 && y < 4;
  writeFileSync(
    join(folder, 'pond.tmx'),
    `<?xml version="1.0"?><map version="1.10" orientation="orthogonal" width="6" height="6" tilewidth="16" tileheight="16">
    <tileset firstgid="1" name="t" tilewidth="16" tileheight="16" tilecount="3" columns="3"><image source="tiles.png" width="48" height="16"/></tileset>
    ${layer('ground', () => 1)}${layer('water', (x, y) => (isMiddle(x, y) ? 2 : 0))}${layer('mist', () => 3, ' visible="0"')}</map>`,
  );
}

describe('Layers of a map of tiles', () => {
  const shown = showTree('Tiles', writeTree);
  const map = (layers: number) => shown.page.getByRole('img', { name: `pond.tmx, ${layers} of 3 layers` });
  const middle = async (layers: number): Promise<number[]> => {
    await map(layers).waitFor();
    // Each layer is a picture of its own.
    await shown.until(
      () =>
        map(layers)
          .locator('img')
          .evaluateAll((all) =>
            (all as HTMLImageElement[]).every((one) => one.complete && one.naturalWidth > 0),
          ),
      'all layers',
    );
    const { data, info } = await sharp(await map(layers).screenshot())
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const at = (Math.floor(info.height / 2) * info.width + Math.floor(info.width / 2)) * 3;
    return [...data.subarray(at, at + 3)];
  };
  const layer = (name: string) => shown.page.getByRole('checkbox', { name });

  it('are seen as the file says, and switched by hand', async () => {
    await shown.go('pond.tmx');
    expect(await middle(2)).to.deep.equal([30, 40, 220]);
    await shown.page.getByText('36 tiles, hidden at first').waitFor();
    await layer('water').click();
    expect(await middle(1)).to.deep.equal([220, 30, 30]);
    await layer('mist').click();
    expect(await middle(2)).to.deep.equal([30, 200, 60]);
    // The address has it all: a link shows the same.
    await shown.page.reload();
    expect(await middle(2)).to.deep.equal([30, 200, 60]);
    await layer('water').press('Space');
    await map(3).waitFor();
    await expectAccessible(shown.page, 'layers of tiles');
  });

  it('are seen apart, one over the other', async () => {
    await shown.go('pond.tmx');
    await shown.page.getByRole('button', { name: 'Layers apart' }).click();
    const tops = (): Promise<number[]> =>
      map(2)
        .locator('img')
        .evaluateAll((all) => all.map((one) => one.getBoundingClientRect().top));
    await shown.until(async () => {
      const [below = 0, above = 0] = await tops();
      return below - above > 20;
    }, 'layers apart');
    expect(shown.query('layers')).to.equal('apart');
  });

  it('that are not there are clear, and what is no number is refused', async () => {
    const asked = await fetch(`${shown.url}/api/shown/1/1/pond.tmx?layer=99`);
    expect(asked.status).to.equal(200);
    const { channels } = await sharp(Buffer.from(await asked.arrayBuffer())).stats();
    expect(channels[3]?.max).to.equal(0);
    expect((await fetch(`${shown.url}/api/shown/1/1/pond.tmx?layer=-1`)).status).to.equal(400);
  });
});
