import type { SetUp } from '../../contract/arrangements.ts';
import { asItLay, type HaulSettings } from '../../contract/haul-settings.ts';
import type { WornPicture } from '../../contract/hauls.ts';
import type { Facts } from '../../contract/facts.ts';
import type { Kind } from '../../contract/kinds.ts';
import { picturesInside } from './compare.ts';
import { classEndings } from './map/write/class-endings.ts';
import { imagesToWrite, lossesOfPicture, pictureEndings } from './picture/write/images.ts';
import { modelEndings, lossesOfModel, piecesEnding, poseEnding } from './model/write/losses.ts';
import { lossesOfSound, soundEndings } from './sound/write/losses.ts';
import { prepared } from './read.ts';
import { ReadError, type ReadRequest } from './reading.ts';
import type { Written } from './writing.ts';

/** What is known of a content beside its bytes when it is written. */
export interface Writing {
  settings: HaulSettings;
  /** By what it holds: a model's format may hold clips alone. */
  kind: Kind;
  /** What its files are called, before their endings. */
  stem: string;
  /** Of a picture: whether its numbers are colours or data, and whether they are directions. */
  space: 'sRGB' | 'linear' | null;
  isNormal: boolean;
  /** Of a model: pictures that its materials wear beside those that it names. */
  worn: readonly WornPicture[];
  leftOut: readonly string[];
  /** Of a model or a text: others that go into the same file, by paths from it. */
  together: readonly string[];
  /** Of a model: how somebody has set it up, with paths as it would name them. */
  arrangement: { name: string; setUp: SetUp } | null;
}

/** Formats whose own extension is not the first in the table. */
const sameFormats: Readonly<Record<string, string>> = { placements: 'json' };

/** Which settings are those of a kind. */
function settingsOf(kind: Kind, settings: HaulSettings): { as: string } | null {
  switch (kind) {
    case 'picture':
      return settings.pictures;
    case 'model':
      return settings.models;
    case 'clip':
      return settings.clips;
    case 'sound':
      return settings.sounds;
    case 'map':
      return settings.maps;
    case 'text':
      return settings.texts;
    default:
      return null;
  }
}

/**
 * The format that a content is written in: as it lay, where nothing would be another. A picture, sound or text that has the format
 * already is not packed anew; a model is, since unit, axis and pictures may differ.
 */
export function formatToWrite(
  { kind, format, facts, isNormal }: { kind: Kind; format: string; facts: Facts | null; isNormal: boolean },
  settings: HaulSettings,
): string {
  const asked = settingsOf(kind, settings)?.as ?? asItLay;
  if (asked === asItLay) return asItLay;
  if (kind === 'text') {
    const isPlain = facts?.kind === 'text' && facts.values === null;
    return isPlain || format === asked || format === 'mtl' ? asItLay : asked;
  }
  if (kind === 'map')
    return format === 'tmx' || format === 'tileset' || (sameFormats[format] ?? format) === asked
      ? asItLay
      : asked;
  if (kind === 'sound') return format === asked || format === 'midi' ? asItLay : asked;
  if (kind === 'picture') {
    const isTurned = isNormal && settings.pictures.green === 'turned';
    const isMany = facts?.kind === 'picture' && facts.frames > 1;
    const { crop, rectangle, scale, width, noise, bands } = settings.pictures;
    const isMended =
      crop !== 'none' || rectangle !== '' || scale !== 1 || width > 0 || noise !== 'kept' || bands !== 'kept';
    return format === asked && !isTurned && !isMany && !isMended ? asItLay : asked;
  }
  return asked;
}

/** Endings of the files that come of a content, as far as its facts tell; pictures of models come beside. */
export function endingsToWrite(as: string, facts: Facts | null, settings: HaulSettings): string[] {
  const ofClip = facts?.kind === 'clip' && settings.clips.pose === 'beside' ? [poseEnding] : [];
  if (facts?.kind === 'picture') return imagesToWrite(facts, settings.pictures).map(({ ending }) => ending);
  if (facts?.kind === 'model' && settings.print.solid !== 'no' && as !== 'gltf')
    return [`.${as}`, piecesEnding];
  if (facts?.kind === 'map' && as === 'glb' && settings.maps.scenes === 'by class')
    return [...classEndings(Object.keys(facts.classes)).values()];
  if (as === 'gltf') return ['.gltf', '.bin', ...ofClip];
  if (as === 'obj') return facts?.kind === 'model' && facts.materials > 0 ? ['.obj', '.mtl'] : ['.obj'];
  const all: Readonly<Record<string, string>> = { ...pictureEndings, ...modelEndings, ...soundEndings };
  return [all[as] ?? `.${as}`, ...ofClip];
}

/** What the format cannot hold of a content, by its facts. */
export function lossesOf(facts: Facts | null, format: string, settings: HaulSettings): string[] {
  switch (facts?.kind) {
    case 'picture':
      return lossesOfPicture(facts, format === 'exr' || format === 'hdr', settings.pictures);
    case 'model':
      return lossesOfModel(facts, settings.models, settings.print.solid === 'one solid');
    case 'sound':
      return lossesOfSound(facts, settings.sounds);
    default:
      return [];
  }
}

/** Writes a content in the format that the settings ask for, and reads it again. @throws ReadError that says why not */
export async function writeContent(
  format: string,
  request: Omit<ReadRequest, 'raster'>,
  { kind, settings, stem, space, isNormal, worn, leftOut, together, arrangement }: Writing,
): Promise<Written> {
  const whole = await prepared(kind, request);
  const others = picturesInside(whole, whole);
  switch (kind) {
    case 'picture': {
      const { writePicture } = await import('./picture/write/write-picture.ts');
      return writePicture(whole, settings.pictures, { space, isNormal });
    }
    case 'model': {
      const { writeModel } = await import('./model/write/write-model.ts');
      const { mend, print } = settings;
      return writeModel(
        whole,
        settings.models,
        { stem, worn, leftOut, together, arrangement, mend, print, clips: null },
        others,
      );
    }
    case 'clip': {
      const { writeModel } = await import('./model/write/write-model.ts');
      const { clips, mend } = settings;
      return writeModel(
        whole,
        { ...settings.models, as: clips.as },
        {
          stem,
          worn: [],
          leftOut,
          together: [],
          arrangement: null,
          mend: { ...mend, attributesFrom: '' },
          print: null,
          clips,
        },
        others,
      );
    }
    case 'sound': {
      const { writeSound } = await import('./sound/write/write-sound.ts');
      return writeSound(whole, format, settings.sounds, others);
    }
    case 'map': {
      const { as } = settings.maps;
      if (as === 'json' || as === 'csv')
        return (await import('./map/write/write-placements.ts')).writePlacements(whole, format, as);
      return (await import('./write-map-scene.ts')).writeMapScene(whole, format, settings.maps);
    }
    case 'text':
      return together.length > 0 && (settings.texts.as === 'json' || settings.texts.as === 'csv')
        ? (await import('./text/write/side-by-side.ts')).writeSideBySide(
            whole,
            format,
            settings.texts.as,
            together,
          )
        : (await import('./text/write/write-text.ts')).writeText(whole, format, settings.texts);
    default:
      throw new ReadError(`a ${kind} is taken out as it lay`);
  }
}
