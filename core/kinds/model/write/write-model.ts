import { WebIO, type Document } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import type { SetUp } from '../../../../contract/arrangements.ts';
import {
  asItLay,
  pairsOf,
  type ClipSettings,
  type MendSettings,
  type ModelSettings,
  type PrintSettings,
} from '../../../../contract/haul-settings.ts';
import type { WornPicture } from '../../../../contract/hauls.ts';
import type { OtherKinds } from '../../comparing.ts';
import { ReadError, type ReadRequest } from '../../reading.ts';
import type { MadeFile, Written } from '../../writing.ts';
import { carryClips } from '../mend/carry-clips.ts';
import { openBeside } from '../mend/merge-models.ts';
import { resampleClips } from '../mend/resample.ts';
import type { ModelDocument } from '../model-document.ts';
import { drawPoses } from '../pose/draw-poses.ts';
import type { Printable } from '../print/print-model.ts';
import { factsOfModel, openModel } from '../read.ts';
import { flatParts } from './flat-parts.ts';
import { write3mf, writePly, writeStl } from './meshes.ts';
import { writeObj } from './obj.ts';
import { endingOfPicture } from './picture-names.ts';
import { lossesOfModel, piecesEnding, poseEnding } from './losses.ts';
import { prepareModel } from './prepare.ts';
import { proofOfModel } from './proof.ts';
import { isCanonical, placeInData, placeInRootNode, toFrame } from './units-and-axes.ts';

/** What is known of a model beside its bytes when it is written. */
export interface ModelWriting {
  stem: string;
  /** Pictures that its materials wear beside those that it names. */
  worn: readonly WornPicture[];
  /** Names of nodes whose shapes stay out. */
  leftOut: readonly string[];
  /** Other models that go into the same file, by paths from this one. */
  together: readonly string[];
  /** How somebody has set it up, with paths as this model would name them. */
  arrangement: { name: string; setUp: SetUp } | null;
  mend: MendSettings;
  /** Of models; clips are not printed. */
  print: PrintSettings | null;
  /** Of clips: what they are carried over to, and how many keys they get. */
  clips: ClipSettings | null;
}

/** Opens what is to be written; a clip on the skeleton that it is carried over to. */
async function openToWrite(
  request: ReadRequest,
  { clips }: ModelWriting,
): Promise<{ model: ModelDocument; carried: string[] }> {
  const model = await openModel(request);
  if (!clips) return { model, carried: [] };
  if (clips.onto === '')
    return {
      model,
      carried: clips.rate > 0 ? resampleClips(model.document, clips.rate) : [],
    };
  const target = await openBeside(request, clips.onto);
  for (const animation of target.document.getRoot().listAnimations()) animation.dispose();
  const carried = carryClips(target.document, model.document, pairsOf(clips.boneMap), clips.rate);
  // The clip is wanted, and what it moves.
  for (const node of target.document.getRoot().listNodes()) node.setMesh(null).setSkin(null);
  for (const material of target.document.getRoot().listMaterials()) material.dispose();
  if (target.document.getRoot().listAnimations().length === 0) throw new ReadError(carried.join('; '));
  return { model: { ...target, missing: [] }, carried };
}

/**
 * Writes a model in another format, in a unit and with an axis upwards, and reads it again.
 * @throws ReadError
 */
export async function writeModel(
  request: ReadRequest,
  settings: ModelSettings,
  writing: ModelWriting,
  others: OtherKinds,
): Promise<Written> {
  const { as } = settings;
  const { stem, print } = writing;
  if (as === asItLay) throw new RangeError('writeModel: what stays as it lay is not written');
  const { model, carried } = await openToWrite(request, writing);
  const isSolid = print?.solid === 'one solid';
  const losses = lossesOfModel(factsOfModel(model), settings, isSolid);
  const { notes, unmatched } = await prepareModel(model, settings, writing, request);
  notes.unshift(...carried);
  const solid = isSolid
    ? await (await import('../print/print-model.ts')).printable(model.document, print, request.platform)
    : null;
  if (solid) notes.push(...solid.notes);
  const document = solid?.document ?? model.document;
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
  // What comes back is compared with the model in metres, Y up: it is kept before it is placed.
  const intended = await io.writeBinary(withoutAddresses(document));
  const files = await makeFiles(document, io, request, settings, stem);
  const proof = await proofOfModel({ request, intended, files, stem, settings }, others);
  if (solid) files.push(...(await filesOfPieces(solid, request, settings)));
  const [clip] = document.getRoot().listAnimations();
  const pose = writing.clips?.pose === 'beside' && clip ? drawPoses(document, clip) : null;
  if (pose) files.push({ ending: poseEnding, bytes: await request.platform.encodePicture(pose) });
  if (unmatched)
    files.push({ ending: '.unmatched.png', bytes: await request.platform.encodePicture(unmatched) });
  return { files, losses, notes, proof };
}

async function makeFiles(
  document: Document,
  io: WebIO,
  request: ReadRequest,
  settings: ModelSettings,
  stem: string,
): Promise<MadeFile[]> {
  const { as } = settings;
  switch (as) {
    case 'glb':
      place(document, settings);
      return [{ ending: '.glb', bytes: await io.writeBinary(document) }];
    case 'gltf':
      place(document, settings);
      return writeGltf(document, io, stem);
    case 'obj':
      return writeObj(flatParts(document, toFrame(settings)), request, stem);
    case 'stl':
      return [{ ending: '.stl', bytes: writeStl(flatParts(document, toFrame(settings))) }];
    case 'ply':
      return [{ ending: '.ply', bytes: writePly(flatParts(document, toFrame(settings))) }];
    case '3mf':
      return [
        {
          ending: '.3mf',
          bytes: write3mf(flatParts(document, toFrame({ ...settings, up: 'Z' })), settings.unit),
        },
      ];
    default:
      throw new ReadError(`models are not written as ${as}`);
  }
}

/** A picture of the pieces, and where the format holds one shape alone a file for each. */
async function filesOfPieces(
  { document, picture }: Printable,
  { platform }: ReadRequest,
  settings: ModelSettings,
): Promise<MadeFile[]> {
  const files: MadeFile[] = [];
  if (picture) files.push({ ending: piecesEnding, bytes: await platform.encodePicture(picture) });
  const parts = settings.as === 'stl' ? flatParts(document, toFrame(settings)) : [];
  if (parts.length > 1)
    for (const part of parts)
      files.push({
        ending: `.pieces/${part.name.replace(' ', '-')}.stl`,
        bytes: writeStl([part]),
      });
  return files;
}

function place(document: Document, settings: ModelSettings): void {
  if (isCanonical(settings)) return;
  if (settings.placed === 'in the data') placeInData(document, toFrame(settings));
  else placeInRootNode(document, toFrame(settings));
}

/** A file that stands alone names none beside it. */
function withoutAddresses(document: Document): Document {
  for (const texture of document.getRoot().listTextures()) texture.setURI('');
  return document;
}

async function writeGltf(document: Document, io: WebIO, stem: string): Promise<MadeFile[]> {
  const root = document.getRoot();
  const names = new Set<string>();
  const endings = new Map<string, string>();
  const addressOf = (ending: string): string => {
    const address = `${stem}${ending}`.split('/').map(encodeURIComponent).join('/');
    endings.set(address, ending);
    return address;
  };
  for (const texture of root.listTextures())
    texture.setURI(
      addressOf(
        endingOfPicture(
          texture.getName().replace(/\.[a-z0-9]{2,4}$/i, '') || 'picture',
          texture.getMimeType(),
          names,
        ),
      ),
    );
  for (const buffer of root.listBuffers()) buffer.setURI(addressOf('.bin'));
  const { json, resources } = await io.writeJSON(document);
  return [
    { ending: '.gltf', bytes: new TextEncoder().encode(JSON.stringify(json)) },
    ...Object.entries(resources).map(([address, bytes]) => ({
      ending: endings.get(address) ?? `.${address}`,
      bytes,
    })),
  ];
}
