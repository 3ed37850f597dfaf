import { pathDigest } from '../../store/hash.ts';

/** A label as the name of a folder: of one part, and never one that leads elsewhere. */
export function folderName(label: string): string {
  const name = encodeURIComponent(label).replace(/^\.+$/, (dots) => dots.replaceAll('.', '%2E'));
  // Systems take names of 255 bytes; letters of other scripts are nine bytes here.
  return name.length <= 200 ? name : `${name.slice(0, 160)}~${pathDigest(label).toString('hex')}`;
}
