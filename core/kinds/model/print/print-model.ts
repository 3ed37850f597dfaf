import { Document } from '@gltf-transform/core';
import type { Manifold } from 'manifold-3d';
import type { PrintSettings } from '../../../../contract/haul-settings.ts';
import { plural } from '../../../figures.ts';
import { ReadError, type Platform, type Raster } from '../../reading.ts';
import { flatParts } from '../write/flat-parts.ts';
import { inverseOf, placedPoints, toFrame } from '../write/units-and-axes.ts';
import { layFlat, type LaidPiece } from './lay-flat.ts';
import { picturePieces } from './picture-pieces.ts';
import { cutToFit, type Bed } from './pieces.ts';
import type { Shell } from './shells.ts';
import { SolidRoom, sizeOf, solidOf } from './solid.ts';
import { wallsOf } from './walls.ts';

export interface Printable {
  /** The pieces beside one another, in metres and Y up, a node to each. */
  document: Document;
  /** What was done and what there is to know, in words. */
  notes: string[];
  /** The pieces with their numbers. */
  picture: Raster | null;
}

/** A gigabyte of places and edges. */
const mostTriangles = 2_000_000;
/** Millimetres between pieces. */
const gapMm = 5;
const inMillimetres = toFrame({ unit: 'millimetres', up: 'Z' });

/**
 * Makes of a model what can be printed: one solid without inside faces, in a real size, cut into pieces that fit the bed, each of them
 * laid flat.
 * @throws ReadError
 */
export async function printable(
  document: Document,
  settings: PrintSettings,
  platform: Pick<Platform, 'openSolids'>,
): Promise<Printable> {
  const room = new SolidRoom(await platform.openSolids());
  try {
    const found = flatParts(document, inMillimetres);
    const triangles = found.reduce((sum, { indices }) => sum + indices.length / 3, 0);
    if (triangles > mostTriangles)
      throw new ReadError(
        `it has ${triangles} triangles, and solids are made of no more than ${mostTriangles}: let it be reduced first`,
      );
    const factor = factorOf(settings.sizeMm, sizeOf(found));
    const parts = found.map(({ positions, indices }) => ({
      positions: factor === 1 ? positions : positions.map((value) => value * factor),
      indices,
    }));
    const made = solidOf(room, parts, settings.wallMm);
    const { solid } = made;
    const bed = bedOf(settings.bedMm);
    const { pieces, pins } = bed
      ? cutToFit(room, solid, bed, settings.pins === 'pins and holes')
      : { pieces: [solid], pins: 0 };
    // What is taken out whole stands as it stood.
    const laid = bed ? pieces.map((piece) => layFlat(room, piece, bed)) : [standing(room, solid)];
    const notes = [...notesOfSolid(made, settings), ...notesOfPieces(laid, bed, pins, solid.volume())];
    const shells = besideOneAnother(laid);
    const whole = pieces.map((piece) => shellOf(piece));
    return {
      document: documentOf(shells),
      notes,
      picture: picturePieces(whole.map(inMetres), shells.map(inMetres)),
    };
  } finally {
    room.free();
  }
}

/** How many times larger it becomes. @throws ReadError */
function factorOf(sizeMm: string, longestMm: number): number {
  if (!(longestMm > 0)) throw new ReadError('it has no triangles to make a solid of');
  if (sizeMm === '') return 1;
  const [first = 0, second] = sizeMm.split('=').map(Number);
  // A length of the model in metres, and what it comes to.
  return second === undefined ? first / longestMm : second / (first * 1000);
}

function bedOf(text: string): Bed | null {
  if (text === '') return null;
  const [width = 0, depth = width, height = width] = text.split('x').map(Number);
  return [width, depth, height];
}

function standing(room: SolidRoom, solid: Manifold): LaidPiece {
  const { min, max } = solid.boundingBox();
  const moved = solid.translate([-(min[0] + max[0]) / 2, -(min[1] + max[1]) / 2, -min[2]]);
  return { solid: room.keep(moved), fits: true, contactMm2: 0 };
}

function notesOfSolid(
  { solid, shells, thickened, holes, turned }: ReturnType<typeof solidOf>,
  { wallMm, gramsPerCm3 }: PrintSettings,
): string[] {
  const { min, max } = solid.boundingBox();
  const size = ([0, 1, 2] as const).map((axis) => (max[axis] - min[axis]).toFixed(1)).join(' × ');
  const cm3 = solid.volume() / 1000;
  const { thinnestMm, thinShare } = wallsOf(solid, wallMm);
  return [
    `${plural(shells, 'shell')} joined to one solid of ${size} mm, closed, ${cm3.toFixed(2)} cm³, ${(cm3 * gramsPerCm3).toFixed(1)} g at ${gramsPerCm3} g/cm³`,
    ...(holes > 0 ? [`${plural(holes, 'hole')} closed`] : []),
    ...(turned > 0 ? [`${plural(turned, 'shell')} turned inside out`] : []),
    ...(thickened > 0
      ? [
          `${plural(thickened, 'shell')} without an inside made ${wallMm} mm thick, or as thick as the grid allows`,
        ]
      : []),
    thinShare > 0
      ? `walls: ${(thinShare * 100).toFixed(1)} % of the surface is thinner than ${wallMm} mm, the thinnest place found ${thinnestMm.toFixed(2)} mm`
      : `walls: none thinner than ${wallMm} mm was found, the thinnest ${thinnestMm.toFixed(2)} mm`,
  ];
}

function notesOfPieces(laid: readonly LaidPiece[], bed: Bed | null, pins: number, volume: number): string[] {
  if (!bed) return [];
  const tooLarge = laid.flatMap(({ fits }, at) => (fits ? [] : [at + 1]));
  const sum = laid.reduce((total, { solid }) => total + solid.volume(), 0);
  return [
    `${plural(laid.length, 'piece')} for a bed of ${bed.join(' × ')} mm, each laid flat, ${(sum / 1000).toFixed(2)} cm³ in all (${((sum / volume) * 100).toFixed(2)} % of the whole${pins > 0 ? `, with ${plural(pins, 'pin')} and as many holes` : ''})`,
    ...(tooLarge.length > 0 ? [`no way was found to lay ${tooLarge.join(', ')} within the bed`] : []),
  ];
}

/** In rows that come to about a square; Z up, in millimetres. */
function besideOneAnother(laid: readonly LaidPiece[]): Shell[] {
  const boxes = laid.map(({ solid }) => solid.boundingBox());
  const area = boxes.reduce(
    (sum, { min, max }) => sum + (max[0] - min[0] + gapMm) * (max[1] - min[1] + gapMm),
    0,
  );
  const widest = Math.max(Math.sqrt(area) * 1.2, ...boxes.map(({ min, max }) => max[0] - min[0]));
  let [x, y, depth] = [0, 0, 0];
  return laid.map(({ solid }, at) => {
    const { min, max } = boxes[at] ?? { min: [0, 0, 0], max: [0, 0, 0] };
    const [width, length] = [max[0] - min[0], max[1] - min[1]];
    if (x > 0 && x + width > widest) {
      x = 0;
      y -= depth + gapMm;
      depth = 0;
    }
    const [dx, dy] = laid.length === 1 ? [0, 0] : [x - min[0], y - max[1]];
    x += width + gapMm;
    depth = Math.max(depth, length);
    return shellOf(solid, dx, dy);
  });
}

function shellOf(solid: Manifold, dx = 0, dy = 0): Shell {
  const { vertProperties, numProp, triVerts, numVert } = solid.getMesh();
  const positions = new Float32Array(numVert * 3);
  for (let vertex = 0; vertex < numVert; vertex++)
    positions.set(
      [
        (vertProperties[vertex * numProp] ?? 0) + dx,
        (vertProperties[vertex * numProp + 1] ?? 0) + dy,
        vertProperties[vertex * numProp + 2] ?? 0,
      ],
      vertex * 3,
    );
  return { positions, indices: new Uint32Array(triVerts) };
}

function inMetres({ positions, indices }: Shell): Shell {
  return { positions: placedPoints(positions, inverseOf(inMillimetres)), indices };
}

function documentOf(shells: readonly Shell[]): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const scene = document.createScene();
  document.getRoot().setDefaultScene(scene);
  shells.forEach(({ positions, indices }, at) => {
    const name = shells.length === 1 ? 'solid' : `piece ${at + 1}`;
    const primitive = document
      .createPrimitive()
      .setAttribute(
        'POSITION',
        document
          .createAccessor()
          .setType('VEC3')
          .setArray(new Float32Array(placedPoints(positions, inverseOf(inMillimetres))))
          .setBuffer(buffer),
      )
      .setIndices(
        document.createAccessor().setType('SCALAR').setArray(new Uint32Array(indices)).setBuffer(buffer),
      );
    scene.addChild(document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive)));
  });
  return document;
}
