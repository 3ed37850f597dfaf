import { expect } from 'chai';
import { groundsOf } from './map-grounds.ts';

const called = (...paths: string[]) => paths.map((path) => ({ path, key: null }));

describe('The ground of a map', () => {
  it('is what the map names before what is called as it is', () => {
    expect(
      groundsOf('maps/isle_long.json', [
        ...called('maps/heights/isle_long_height.png', 'textures/isle_long_ground.png'),
        { path: 'shared/far_dem.tif', key: 'terrain.heights' },
      ]),
    ).to.deep.equal({
      heights: ['shared/far_dem.tif', 'maps/heights/isle_long_height.png'],
      pictures: ['textures/isle_long_ground.png'],
    });
  });

  it('is of that map, and of no other that is called nearly so', () => {
    expect(
      groundsOf('maps/isle.json', called('maps/isle_2_height.png', 'maps/isle_mill_height.png', 'isle.png')),
    ).to.deep.equal({ heights: [], pictures: [] });
  });

  it('may have a plain name where it lies in the folder of its map', () => {
    expect(
      groundsOf('maps/isle/layout.json', called('maps/isle/heightmap.png', 'maps/other/heightmap.png')),
    ).to.deep.equal({ heights: ['maps/isle/heightmap.png'], pictures: [] });
  });

  it('is told by the key where the name of the picture says nothing', () => {
    expect(
      groundsOf('a.json', [
        { path: 'x/0001.png', key: 'level.heightmap' },
        { path: 'x/0002.png', key: 'level.minimap' },
        { path: 'x/0003.png', key: 'level.sky' },
      ]),
    ).to.deep.equal({ heights: ['x/0001.png'], pictures: ['x/0002.png'] });
  });
});
