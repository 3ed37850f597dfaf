import type { Asset } from '../../../contract/assets.ts';
import { isShownAsItIs } from '../../../core/kinds/formats.ts';
import { contentAddress, fileAddress, shownAddress } from '../../viewer/asset-addresses.ts';

/** Codings of WAV that browsers play by themselves; other formats have but one. */
const playedCodings: ReadonlySet<string> = new Set(['', 'PCM', 'PCM float', 'FLAC', 'Vorbis', 'Opus', 'MP3']);

/** Whether a browser shows an asset's own bytes. */
export function isShownPlain(asset: Asset): boolean {
  return (
    isShownAsItIs(asset.format) && !(asset.facts?.kind === 'sound' && !playedCodings.has(asset.facts.coding))
  );
}

/** From where a browser loads an asset: its own bytes, or a form that it shows. */
export function sourceOf(channel: number, asset: Asset): string {
  if (!isShownPlain(asset)) return shownAddress(channel, asset.build, asset.path);
  return asset.kind === 'model' || asset.kind === 'clip'
    ? fileAddress(channel, asset.build, asset.path)
    : contentAddress(asset.hash ?? '', asset.format);
}
