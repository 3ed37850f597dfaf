import type { Document, Material, Texture } from '@gltf-transform/core';
import type { Figure } from '../../../../contract/comparisons.ts';
import { sameBytes } from '../../../bytes.ts';
import { named, type OtherKinds } from '../../comparing.ts';
import { isReadError } from '../../reading.ts';
import { propertyText } from '../property-text.ts';
import { describeList } from './describe.ts';

export interface MaterialDifferences {
  /** Each a part of a sentence. */
  sentences: string[];
  figures: Figure[];
  /** Older names of materials by newer ones. */
  renamed: Map<string, string>;
}

const slots = ['BaseColor', 'MetallicRoughness', 'Normal', 'Occlusion', 'Emissive'] as const;
/** How a person calls them, in the order of `slots`. */
const slotNames = ['colour', 'metal and roughness', 'normals', 'occlusion', 'glow'] as const;

/** Factors that are nearer to one another than this are the same: as colours of 8 bits are. */
const sameFactor = 1 / 512;

/**
 * Materials by name: their factors, and the pictures that they take. A picture inside a model is compared as any other
 * one: merely packed otherwise it is a figure and no difference.
 */
export async function compareMaterials(
  old: Document,
  now: Document,
  others: OtherKinds,
): Promise<MaterialDifferences> {
  const [before, after] = [byName(old), byName(now)];
  const result: MaterialDifferences = { sentences: [], figures: [], renamed: new Map() };
  const only = (names: Iterable<string>, others: ReadonlyMap<string, unknown>): string[] =>
    [...names].filter((name) => !others.has(name));
  let [added, gone] = [only(after.keys(), before), only(before.keys(), after)];
  // What is the same but for its name was renamed.
  for (const name of added) {
    const there = gone.find(
      (other) =>
        ![...result.renamed.values()].includes(other) &&
        bareText(before.get(other)) === bareText(after.get(name)),
    );
    if (there !== undefined) result.renamed.set(name, there);
  }
  added = added.filter((name) => !result.renamed.has(name));
  gone = gone.filter((name) => ![...result.renamed.values()].includes(name));
  if (result.renamed.size > 2) result.sentences.push(`${result.renamed.size} materials renamed`);
  for (const [name, other] of result.renamed) {
    if (result.renamed.size <= 2) result.sentences.push(`material ${named(other)} renamed to ${named(name)}`);
    await compareOne(name, before.get(other), after.get(name), others, result);
  }
  result.sentences.push(...describeList(added, 'material', 'new'), ...describeList(gone, 'material', 'gone'));
  for (const [name, material] of after)
    if (before.has(name)) await compareOne(name, before.get(name), material, others, result);
  return result;
}

/** One that came where another one went. */
export function insteadText(name: string, other: string): string {
  return `${named(name)} instead of ${named(other)}`;
}

/** All that a material says but for its name, which comes first. */
function bareText(material: Material | undefined): string {
  return material ? propertyText(material).slice(material.getName().length) : '';
}

/** Those without a name, or with one that another has, go by their place. */
function byName(document: Document): Map<string, Material> {
  const materials = new Map<string, Material>();
  document
    .getRoot()
    .listMaterials()
    .forEach((material, at) => {
      const name = material.getName();
      materials.set(name === '' || materials.has(name) ? `${name || 'no name'} ${at + 1}` : name, material);
    });
  return materials;
}

async function compareOne(
  name: string,
  old: Material | undefined,
  now: Material | undefined,
  others: OtherKinds,
  result: MaterialDifferences,
): Promise<void> {
  if (!old || !now) return;
  const changed: string[] = [];
  const before = factorsOf(old);
  for (const [factor, value] of Object.entries(factorsOf(now))) {
    const then = before[factor];
    if (then === undefined || isSame(then, value)) continue;
    changed.push(`${factor} ${inSentence(then)} → ${inSentence(value)}`);
    result.figures.push({ name: `${factor} of ${name}`, old: valueText(then), new: valueText(value) });
  }
  const pictures: string[] = [];
  for (const [at, slot] of slots.entries()) {
    const said = await compareTextures(
      `${slotNames[at] ?? slot} of ${name}`,
      textureOf(old, slot),
      textureOf(now, slot),
      others,
      result.figures,
    );
    if (said !== '') pictures.push(said);
  }
  if (changed.length + pictures.length === 0 && besidesOf(old) !== besidesOf(now))
    changed.push('other values in its extensions');
  if (changed.length > 0)
    result.sentences.push(
      `material ${named(name)}: ${changed.slice(0, 3).join(', ')}${changed.length > 3 ? ` and ${changed.length - 3} more` : ''}`,
    );
  result.sentences.push(...pictures);
}

/** Its extensions, and how its pictures are laid and repeated. */
function besidesOf(material: Material): string {
  const infos = slots.map((slot) => (textureOf(material, slot) ? material[`get${slot}TextureInfo`]() : null));
  return [...material.listExtensions(), ...infos].map(propertyText).join('\n');
}

function lower(sentence: string): string {
  return `${sentence.charAt(0).toLowerCase()}${sentence.slice(1).replace(/\.$/, '')}`;
}

function factorsOf(material: Material): Record<string, string | readonly number[]> {
  return {
    colour: material.getBaseColorFactor(),
    glow: material.getEmissiveFactor(),
    roughness: [material.getRoughnessFactor()],
    metal: [material.getMetallicFactor()],
    'strength of normals': [material.getNormalScale()],
    'strength of occlusion': [material.getOcclusionStrength()],
    transparency: material.getAlphaMode().toLowerCase(),
    'cut of alpha': [material.getAlphaCutoff()],
    sides: material.getDoubleSided() ? 'both' : 'one',
  };
}

function isSame(a: string | readonly number[], b: string | readonly number[]): boolean {
  if (typeof a === 'string' || typeof b === 'string') return a === b;
  return a.every((value, at) => Math.abs(value - (b[at] ?? 0)) <= sameFactor);
}

function valueText(value: string | readonly number[]): string {
  return typeof value === 'string' ? value : value.map((number) => Number(number.toPrecision(3))).join(', ');
}

/** Several numbers as one value. */
function inSentence(value: string | readonly number[]): string {
  return typeof value === 'string' || value.length === 1 ? valueText(value) : `(${valueText(value)})`;
}

function textureOf(material: Material, slot: (typeof slots)[number]): Texture | null {
  return material[`get${slot}Texture`]();
}

/** @returns what differs, empty where nothing does */
async function compareTextures(
  name: string,
  old: Texture | null,
  now: Texture | null,
  others: OtherKinds,
  figures: Figure[],
): Promise<string> {
  if (!old && !now) return '';
  if (!old || !now) return `the picture for ${name} ${now ? 'new' : 'gone'}`;
  const [before, after] = [old.getURI(), now.getURI()];
  if (before !== '' && after !== '' && before !== after) {
    figures.push({ name: `picture for ${name}`, old: before, new: after });
    return `${named(after)} instead of ${named(before)} for ${name}`;
  }
  const [oldBytes, newBytes] = [old.getImage(), now.getImage()];
  if (!oldBytes || !newBytes || sameBytes(oldBytes, newBytes)) return '';
  // A file beside the model is an asset of its own, and told of there.
  if (after !== '' && before !== '') return '';
  const outcome = await others.comparePictures(oldBytes, newBytes).catch((error: unknown) => {
    if (isReadError(error)) return null;
    throw error;
  });
  const nature = outcome?.comparison.nature;
  const sentence = outcome?.comparison.sentence ?? 'Its bytes differ, and they cannot be read.';
  figures.push({ name: `picture for ${name}`, old: '', new: sentence });
  return nature === 'same' || nature === 'rewritten' || nature === 'recompressed'
    ? ''
    : `the picture for ${name}: ${lower(sentence)}`;
}
