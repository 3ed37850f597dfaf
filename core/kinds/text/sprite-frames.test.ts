import { expect } from 'chai';
import type { SpriteFrame } from '../../../contract/sprites.ts';
import { dataOf } from './data-tree.ts';
import { framesWithin, spriteFramesIn } from './sprite-frames.ts';

const framesOf = async (text: string, format: string): Promise<string[]> => {
  const { data } = await dataOf(text, format);
  return data ? spriteFramesIn(data).map(frameText) : [];
};
const frameText = ({ name, left, top, width, height, isTurned }: SpriteFrame): string =>
  `${name} ${left},${top} ${width}×${height}${isTurned ? ' turned' : ''}`;

describe('Frames of sprite tables', () => {
  it('are read from JSON, by name or in a list, whatever holds their rectangle (common practice)', async () => {
    expect(
      await framesOf(
        JSON.stringify({
          frames: {
            'heron_1.png': {
              frame: { x: 0, y: 2, w: 16, h: 24 },
              rotated: true,
              sourceSize: { w: 24, h: 16 },
            },
            'heron_2.png': { frame: { x: 16, y: 2, w: 16, h: 24 }, rotated: false },
          },
          meta: { image: 'heron.png', size: { w: 64, h: 64 }, scale: '1' },
        }),
        'json',
      ),
    ).to.deep.equal(['heron_1.png 0,2 16×24 turned', 'heron_2.png 16,2 16×24']);
    expect(
      await framesOf(
        '{"sprites":[{"name":"oar","x":1,"y":2,"width":3,"height":4},{"id":"net","left":5,"top":6,"right":15,"bottom":26},{"x":0,"y":0}]}',
        'json',
      ),
    ).to.deep.equal(['oar 1,2 3×4', 'net 5,6 10×20']);
  });

  it('are read from XML, YAML and tables', async () => {
    expect(
      await framesOf(
        '<?xml version="1.0"?><atlas image="a.png"><item name="oar" x="1" y="2" width="3" height="4"/><item name="net" x="5" y="6" width="7" height="8" rotated="y"/></atlas>',
        'xml',
      ),
    ).to.deep.equal(['oar 1,2 3×4', 'net 5,6 7×8 turned']);
    expect(await framesOf('oar:\n  x: 1\n  y: 2\n  w: 3\n  h: 4\n', 'yaml')).to.deep.equal(['oar 1,2 3×4']);
    expect(await framesOf('sprite,x,y,w,h\noar,1,2,3,4\nnet,a,2,3,4\n', 'csv')).to.deep.equal([
      'oar 1,2 3×4',
    ]);
    expect(await framesOf('[oar]\nx=1\ny=2\nw=3\nh=4\n', 'ini')).to.deep.equal(['oar 1,2 3×4']);
  });

  it('are none where places and sizes make no rectangle', async () => {
    for (const entry of [
      '{"x":-1,"y":0,"w":2,"h":2}',
      '{"x":0,"y":0,"w":0,"h":2}',
      '{"x":0,"y":0,"w":"wide","h":2}',
      '{"left":9,"top":0,"right":3,"bottom":4}',
    ])
      expect(await framesOf(`{"a":${entry}}`, 'json'), entry).to.deep.equal([]);
  });

  it('of another picture lie beyond this one', () => {
    const frame = (left: number, isTurned = false): SpriteFrame => ({
      ...{ name: '', left, top: 0, width: 10, height: 30, isTurned },
    });
    const { frames, outside } = framesWithin([frame(0), frame(50), frame(40, true)], {
      width: 60,
      height: 30,
    });
    expect(frames).to.have.length(2);
    expect(outside).to.equal(1);
  });

  it('stop where a table would never end', () => {
    const rows = Array.from({ length: 30_000 }, (_, at) => ({ x: at, y: 0, w: 1, h: 1 }));
    expect(spriteFramesIn({ root: rows })).to.have.length(20_000);
    let deep: unknown = { x: 0, y: 0, w: 1, h: 1 };
    for (let depth = 0; depth < 1000; depth++) deep = { a: deep };
    expect(spriteFramesIn({ root: deep })).to.deep.equal([]);
  });
});
