import { asItLay, type HaulSettings } from '../../contract/haul-settings.ts';
import type { Kind } from '../../contract/kinds.ts';

/**
 * Whether what an asset needs comes out as files of its own: pictures and buffers of a model that is written anew are in it or
 * beside it, and so are the models of a map that is written as a scene.
 */
export function comesAlong(from: Kind, to: Kind, settings: HaulSettings): boolean {
  if (!settings.along.needs) return false;
  if (from === 'model' || from === 'clip') {
    const isWritten = (from === 'model' ? settings.models.as : settings.clips.as) !== asItLay;
    return !isWritten || to === 'model' || to === 'clip' || to === 'sound' || to === 'map';
  }
  if (from === 'map' && settings.maps.as === 'glb') return to !== 'model' && to !== 'picture';
  return true;
}
