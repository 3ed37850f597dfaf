import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import type { ModelSettings } from '../../../../contract/haul-settings.ts';
import { sameBytes } from '../../../bytes.ts';
import type { OtherKinds } from '../../comparing.ts';
import { ReadError, type BySheet, type ReadRequest } from '../../reading.ts';
import type { MadeFile, Proof } from '../../writing.ts';
import { compareModels } from '../compare.ts';
import { decodedModel } from '../fingerprint.ts';
import type { ModelDocument } from '../model-document.ts';
import { openModel } from '../read.ts';
import { hasCorners, plainCorners } from './plain-gltf.ts';
import { trianglesOf } from '../triangles.ts';
import { inverseOf, isCanonical, placeInData, placeInRootNode, toFrame } from './units-and-axes.ts';

/**
 * Reads what was written, brings it back to metres and Y up, and compares it with what was meant to be written: numbers first,
 * which settles most, then as two models of an update are compared.
 */
export async function proofOfModel(
  {
    request,
    intended,
    files,
    stem,
    settings,
  }: {
    request: ReadRequest;
    /** The model as it was to be written, as GLB in metres, Y up. */
    intended: Uint8Array;
    files: readonly MadeFile[];
    stem: string;
    settings: ModelSettings;
  },
  others: OtherKinds,
): Promise<Proof> {
  const [first] = files;
  if (!first) return { verdict: 'not checked', sentence: 'Nothing was written.' };
  const beside = new Map(files.map(({ ending, bytes }) => [`${stem}${ending}`, bytes]));
  const written: ReadRequest = {
    ...request,
    bytes: settings.as === '3mf' ? await modelPart(first.bytes) : first.bytes,
    path: settings.as === '3mf' ? '3dmodel.model' : `${stem}${first.ending}`,
    bySheet: undefined,
    resolve: async (reference) => beside.get(reference) ?? null,
  };
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
  const meant = await io.readBinary(intended);
  const read = await openModel(written);
  if (settings.as === 'glb' || settings.as === 'gltf') {
    const problem = secondReading(first.bytes, beside, read.document);
    if (problem !== null) return { verdict: 'differs', sentence: problem };
  }
  // 3MF says both itself, and is read accordingly.
  if (settings.as !== '3mf' && !isCanonical(settings)) {
    const back = inverseOf(toFrame(settings));
    if (settings.placed === 'in the data') placeInData(read.document, back);
    else placeInRootNode(read.document, back);
  }
  if (haveSameNumbers(meant, read.document)) return { verdict: 'the same', sentence: '' };
  // A format of triangles alone has them in their order.
  if (settings.as === 'stl' && haveSameTriangles(meant, read.document))
    return { verdict: 'the same', sentence: '' };
  const { comparison } = await compareModels(
    {
      ...request,
      bytes: intended,
      path: 'meant.glb',
      bySheet: opened({ document: meant, missing: [], units: 'metres, Y up' }),
    },
    { ...written, bySheet: opened({ ...read, units: 'metres, Y up' }) },
    others,
  );
  const { nature, sentence } = comparison;
  if (nature === 'same' || nature === 'rewritten') return { verdict: 'the same', sentence: '' };
  // What the format has no place for was said before anything was written.
  return onlyUnsaid.test(sentence) ? { verdict: 'the same', sentence } : { verdict: 'differs', sentence };
}

/** What the library that wrote it reads again, a reader that knows nothing of it reads, too. @returns what is wrong, or null */
function secondReading(
  bytes: Uint8Array,
  beside: ReadonlyMap<string, Uint8Array>,
  document: ModelDocument['document'],
): string | null {
  try {
    return hasCorners(
      document,
      plainCorners(bytes, (name) => beside.get(name)),
    )
      ? null
      : 'A second reader finds other corners of triangles in it than the first one.';
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
    return `A second reader cannot read it: ${error.message}.`;
  }
}

const onlyUnsaid =
  /^The same shape(, \d+ (UV set|morph target)s? fewer)*(, [A-Z0-9]+ says nothing of [A-Za-z, ]+)?\.$/;

const nothing = new Uint8Array(0);

function haveSameNumbers(meant: ModelDocument['document'], read: ModelDocument['document']): boolean {
  const [first, second] = [decodedModel(meant), decodedModel(read)];
  return (
    first.length === second.length && first.every((piece, at) => sameBytes(piece, second[at] ?? nothing))
  );
}

/** A share of the whole size by which corners may be off: single precision, in another unit. */
const cornerTolerance = 2e-6;

function haveSameTriangles(meant: ModelDocument['document'], read: ModelDocument['document']): boolean {
  const [first, second] = [cornersOf(meant), cornersOf(read)];
  if (first.length !== second.length) return false;
  let size = 0;
  for (const value of first) size = Math.max(size, Math.abs(value));
  return first.every((value, at) => Math.abs(value - (second[at] ?? NaN)) <= size * cornerTolerance);
}

/** xyz triples, three to a triangle, in the order of the scene. */
function cornersOf(document: ModelDocument['document']): Float32Array {
  const batches = trianglesOf(document);
  const corners = new Float32Array(batches.reduce((sum, { indices }) => sum + indices.length * 3, 0));
  let to = 0;
  for (const { positions, indices } of batches)
    for (const vertex of indices)
      for (let axis = 0; axis < 3; axis++) corners[to++] = positions[vertex * 3 + axis] ?? 0;
  return corners;
}

/** A model that is open already, for who would open it. */
function opened(model: ModelDocument): BySheet {
  const refuse = (): never => {
    throw new ReadError('this is a model');
  };
  return {
    model: async () => model,
    mark: () => ({ name: '', version: '' }),
    mentions: async () => [],
    ...{ picture: refuse, sound: refuse, placements: refuse, table: refuse },
  };
}

async function modelPart(packed: Uint8Array): Promise<Uint8Array> {
  const { unzipSync } = await import('fflate');
  const part = unzipSync(packed)['3D/3dmodel.model'];
  if (!part) throw new ReadError('the 3MF that was written has no model in it');
  return part;
}
