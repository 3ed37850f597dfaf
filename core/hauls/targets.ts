import type { HaulSettings } from '../../contract/haul-settings.ts';

/** Letters that one file system or another does not take in a name, with those that nobody sees. */
const refused = /[<>:"|?*\\\u0000-\u001f\u007f]/g;
/** Names that mean devices to some systems, whatever follows a full stop. */
const devices = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i;
/** Bytes of a name that every usual file system takes, with room for an ending. */
const mostNameBytes = 180;

export interface Placed {
  /** Below the folder that is written to, without an ending. */
  stem: string;
  /** What it would have been, where another has that name; else empty. */
  insteadOf: string;
}

/** A name that every usual file system takes; never one that leads elsewhere. */
export function safeName(name: string): string {
  const plain = name
    .normalize('NFC')
    .replace(refused, '_')
    .replace(/[. ]+$/, (end) => '_'.repeat(end.length));
  const named = plain === '' ? '_' : devices.test(plain) ? `_${plain}` : plain;
  return shortened(named);
}

function shortened(name: string): string {
  const encoder = new TextEncoder();
  if (encoder.encode(name).length <= mostNameBytes) return name;
  let short = '';
  let length = 0;
  for (const letter of name) {
    length += encoder.encode(letter).length;
    if (length > mostNameBytes - 9) break;
    short += letter;
  }
  return `${short}~${numberOf(name)}`;
}

/** Tells long names apart that begin alike: FNV-1a of 32 bits. */
function numberOf(text: string): string {
  let hash = 0x811c9dc5;
  for (const byte of new TextEncoder().encode(text)) hash = Math.imul(hash ^ byte, 0x01000193);
  return (hash >>> 0).toString(16).padStart(8, '0');
}

/** The folders and the name of an asset, as they are to be. @param family of the asset; empty where it has none */
function wantedStem(
  path: string,
  family: string,
  folders: HaulSettings['folders'],
  keepsExtension: boolean,
): string {
  const parts = path.replaceAll('!/', '/').split('/').map(safeName);
  const name = parts.pop() ?? '_';
  const stem = keepsExtension ? name : name.replace(/(?<=.)\.[^.]*$/, '');
  if (folders === 'one folder') return stem;
  if (folders === 'by family') return `${safeName(family || 'without a family')}/${stem}`;
  return [...parts, stem].join('/');
}

/** Gives every asset a place of its own: two that differ in the size of their letters alone are told apart by numbers. */
export class Targets {
  private readonly taken = new Set<string>();
  /** A file cannot be called as a folder is: a container may come out with what is in it. */
  private readonly foldersTaken = new Set<string>();
  /** One before the number that was given last, by what was wanted: another ending may have it, too. */
  private readonly lastNumber = new Map<string, number>();
  private readonly folders: HaulSettings['folders'];

  constructor(folders: HaulSettings['folders']) {
    this.folders = folders;
  }

  /** Takes note of the folders of an asset that will be placed; of all, before the first is. */
  reserve({ path, family }: { path: string; family: string }): void {
    const stem = wantedStem(path, family, this.folders, true).toLowerCase();
    for (let at = stem.lastIndexOf('/'); at >= 0; at = stem.lastIndexOf('/', at - 1)) {
      const folder = stem.slice(0, at);
      // What is above it was noted with it.
      if (this.foldersTaken.has(folder) || at === 0) break;
      this.foldersTaken.add(folder);
    }
  }

  /** @param endings of the files that will come; those beside a model lie in a folder of its name */
  place({ path, family, endings }: { path: string; family: string; endings: readonly string[] }): Placed {
    // What stays as it lay has its extension in its stem.
    const isAsItLay = endings.every((ending) => ending === '');
    const wanted = wantedStem(path, family, this.folders, isAsItLay);
    let stem = wanted;
    // Thousands may be called alike: numbers that were given are not tried again.
    const counted = wanted.toLowerCase();
    let number = this.lastNumber.get(counted) ?? 1;
    while (this.isTaken(stem, endings)) stem = numbered(wanted, ++number, isAsItLay);
    this.lastNumber.set(counted, number > 1 ? number - 1 : 1);
    for (const key of keysOf(stem, endings)) this.taken.add(key);
    return { stem, insteadOf: stem === wanted ? '' : wanted };
  }

  private isTaken(stem: string, endings: readonly string[]): boolean {
    return keysOf(stem, endings).some((key) => this.taken.has(key) || this.foldersTaken.has(key));
  }
}

function keysOf(stem: string, endings: readonly string[]): string[] {
  return [...endings, '.pictures'].map((ending) => `${stem}${ending}`.toLowerCase());
}

function numbered(stem: string, number: number, hasExtension: boolean): string {
  const dot = hasExtension ? stem.lastIndexOf('.') : -1;
  const isName = dot > stem.lastIndexOf('/') + 1;
  return isName ? `${stem.slice(0, dot)} (${number})${stem.slice(dot)}` : `${stem} (${number})`;
}
