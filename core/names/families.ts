import type { Kind } from '../../contract/kinds.ts';
import type { NameRole } from '../../contract/names.ts';
import { areParallel, familyFolder } from './family-folder.ts';
import type { Lexicon } from './lexicon.ts';
import { splitName, stemOf } from './split.ts';

/** A file of a build, as far as families look at it. */
export interface FamilyAsset {
  path: string;
  kind: Kind;
}

/** A link between two files, by their places in the list. */
export interface FamilyLink {
  from: number;
  to: number;
}

/** What a person said: a file belongs with another one, or (null) to no family but its own. */
export interface FamilyCorrection {
  asset: number;
  with: number | null;
}

/** Roles in which the members of one family differ. */
const varying: ReadonlySet<NameRole> = new Set<NameRole>([
  'view',
  'LOD',
  'colour variant',
  'players',
  'quality',
  'body half',
  'texture role',
  'language',
  'palette number',
]);

interface Group {
  base: string;
  folder: string;
  assets: number[];
  hasModel: boolean;
  kinds: Set<Kind>;
  /** The group that it was put to, or itself. */
  parent: number;
  /** Why it was put there. */
  reason: string;
}

/** A base that stands in more folders than these is a name of a sort (body, base), and says nothing of whose it is. */
const mostFolders = 4;

/** Things and what they are made of: each file is in one family, which may be of it alone. */
export class Families {
  private readonly groups: Group[] = [];
  private readonly groupOf: Int32Array;
  private readonly corrected = new Map<number, string>();
  private readonly members = new Map<number, number[]>();
  private readonly assets: readonly FamilyAsset[];

  /** @param links those that are sure: guesses by name gather nothing */
  constructor(
    assets: readonly FamilyAsset[],
    lexicon: Lexicon,
    links: readonly FamilyLink[],
    corrections: readonly FamilyCorrection[] = [],
  ) {
    this.assets = assets;
    this.groupOf = new Int32Array(assets.length);
    this.groupByName(lexicon);
    this.joinDefinitions(links);
    this.joinParallelFolders();
    this.joinByLinks(links);
    this.joinByBeginning();
    this.correct(corrections);
    for (let asset = 0; asset < assets.length; asset++) {
      const family = this.familyOf(asset);
      const members = this.members.get(family);
      if (members) members.push(asset);
      else this.members.set(family, [asset]);
    }
  }

  /** Number of the family of a file. */
  familyOf(asset: number): number {
    let group = this.groupOf[asset] ?? 0;
    for (let parent = this.groups[group]?.parent; parent !== undefined && parent !== group; parent = this.groups[group]?.parent)
      group = parent;
    return group;
  } // prettier-ignore

  membersOf(family: number): readonly number[] {
    return this.members.get(family) ?? [];
  }

  /** Families of more than one file, those with most files first. */
  list(): { family: number; name: string; folder: string; members: readonly number[] }[] {
    const list = [...this.members]
      .filter(([, members]) => members.length > 1)
      .map(([family, members]) => ({ family, ...this.nameOf(family), members }));
    return list.sort(
      (a, b) => b.members.length - a.members.length || (a.name < b.name ? -1 : a.name > b.name ? 1 : a.family - b.family),
    );
  } // prettier-ignore

  nameOf(family: number): { name: string; folder: string } {
    const group = this.groups[family];
    return { name: group?.base ?? '', folder: group?.folder ?? '' };
  }

  /** Why a file is in its family, in the order of the steps that led there. */
  reasonsFor(asset: number): string[] {
    const said = this.corrected.get(asset);
    if (said !== undefined) return [said];
    let number = this.groupOf[asset] ?? 0;
    const reasons: string[] = [];
    const first = this.groups[number];
    if (first && first.assets.length > 1)
      reasons.push(
        `its name without what varies is “${first.base}”${first.folder === '' ? '' : `, in ${first.folder}`}`,
      );
    for (let group = this.groups[number]; group && group.parent !== number; group = this.groups[number]) {
      reasons.push(group.reason);
      number = group.parent;
    }
    return reasons.length > 0 ? reasons : [`it gave the family its name, “${first?.base ?? ''}”`];
  }

  private groupByName(lexicon: Lexicon): void {
    const known = new Map<string, number>();
    this.assets.forEach(({ path, kind }, asset) => {
      const folder = familyFolder(path);
      const named = lexicon.read(splitName(stemOf(path), lexicon.rules));
      const stays = named.map(({ entry }) => entry === null || !varying.has(entry.role));
      // What stands first says what a thing is, where something that stays follows: `mask_wall` is a mask.
      if (stays.includes(true)) stays[0] = true;
      const base = named.flatMap(({ part }, at) => (stays[at] ? [part] : [])).join('_');
      // A file named by what varies alone (`l0.glb`) is named by its folder.
      const name = base === '' ? folder.slice(folder.lastIndexOf('/') + 1) : base;
      const key = `${folder}\n${name}`;
      let number = known.get(key);
      if (number === undefined) {
        number = this.groups.length;
        known.set(key, number);
        this.groups.push({
          base: name,
          folder,
          assets: [],
          hasModel: false,
          kinds: new Set(),
          parent: number,
          reason: '',
        });
      }
      const group = this.groups[number];
      group?.assets.push(asset);
      group?.kinds.add(kind);
      if (group && kind === 'model') group.hasModel = true;
      this.groupOf[asset] = number;
    });
  } // prettier-ignore

  /** A definition that names the model of one thing alone is that thing's. */
  private joinDefinitions(links: readonly FamilyLink[]): void {
    const models = new Map<number, { family: number; to: number } | null>();
    for (const { from, to } of links) {
      const group = this.groupOf[from] ?? 0;
      if (this.assets[to]?.kind !== 'model' || this.groups[group]?.hasModel) continue;
      const family = this.groupOf[to] ?? 0;
      const before = models.get(group);
      if (before === undefined) models.set(group, { family, to });
      else if (before && before.family !== family) models.set(group, null);
    }
    for (const [group, named] of models) {
      const kinds = this.groups[group]?.kinds;
      if (named && kinds?.size === 1 && kinds.has('text'))
        this.join(group, named.family, `it names ${this.assets[named.to]?.path ?? ''}, and no other thing`);
    }
  }

  /** The same name in parallel folders is the same thing, where it is no name that stands everywhere. */
  private joinParallelFolders(): void {
    for (const groups of this.byBase().values()) {
      if (groups.length < 2 || groups.length > mostFolders) continue;
      const leader = groups.find((number) => this.groups[number]?.hasModel) ?? groups[0] ?? 0;
      for (const number of groups) {
        if (this.groups[number]?.parent !== number) continue;
        const [group, of] = [this.groups[number], this.groups[leader]];
        if (!group || !of || number === leader || !areParallel(group.folder, of.folder)) continue;
        // Two models of one name in two folders are two things.
        if (group.hasModel && group.folder !== of.folder) continue;
        this.join(
          number,
          leader,
          `“${of.base}” stands in a folder beside that is parallel to ${of.folder === '' ? 'the root' : of.folder}`,
        );
      }
    }
  }

  private byBase(): Map<string, number[]> {
    const byBase = new Map<string, number[]>();
    this.groups.forEach(({ base }, number) => {
      const groups = byBase.get(base);
      if (groups) groups.push(number);
      else byBase.set(base, [number]);
    });
    return byBase;
  }

  /** What only one family names belongs to it: textures to their model, sounds and clips to who plays them. */
  private joinByLinks(links: readonly FamilyLink[]): void {
    const namedBy = new Map<number, { leader: number; from: number } | null>();
    for (const { from, to } of links) {
      const kind = this.assets[from]?.kind;
      // Maps and lists name things that are not theirs.
      if (kind !== 'model' && kind !== 'clip') continue;
      const [leader, target] = [this.familyOf(from), this.familyOf(to)];
      if (leader === target) continue;
      const before = namedBy.get(target);
      if (before === undefined) namedBy.set(target, { leader, from });
      else if (before && before.leader !== leader) namedBy.set(target, null);
    }
    for (const [target, by] of namedBy) {
      if (!by || this.groups[target]?.hasModel || this.familyOf(by.from) === target) continue;
      this.join(
        target,
        this.familyOf(by.from),
        `only ${this.assets[by.from]?.path ?? ''} and its family name it`,
      );
    }
  }

  /** Clips and sounds begin with the name of whose they are: `heron_walk` is the heron's. */
  private joinByBeginning(): void {
    const models = new Map<string, number[]>();
    this.groups.forEach((group, number) => {
      if (!group.hasModel || group.parent !== number) return;
      const groups = models.get(group.base);
      if (groups) groups.push(number);
      else models.set(group.base, [number]);
    });
    this.groups.forEach((group, number) => {
      if (group.parent !== number || group.hasModel) return;
      if (![...group.kinds].every((kind) => kind === 'clip' || kind === 'sound' || kind === 'picture'))
        return;
      const parts = group.base.split('_');
      for (let length = parts.length - 1; length > 0; length--) {
        const begin = parts.slice(0, length).join('_');
        const leaders = (models.get(begin) ?? []).filter((leader) =>
          areParallel(this.groups[leader]?.folder ?? '', group.folder),
        );
        const [leader] = leaders;
        if (leader === undefined || leaders.length > 1) continue;
        this.join(number, leader, `its name begins with “${begin}”`);
        return;
      }
    });
  }

  private correct(corrections: readonly FamilyCorrection[]): void {
    for (const { asset, with: other } of corrections) {
      const target = other === null ? this.lone(asset) : this.familyOf(other);
      this.groupOf[asset] = target;
      this.corrected.set(
        asset,
        other === null
          ? 'a person took it out of its family'
          : `a person put it to ${this.assets[other]?.path ?? ''}`,
      );
    }
  }

  /** A group for one file that was taken out of its own. */
  private lone(asset: number): number {
    const number = this.groups.length;
    const path = this.assets[asset]?.path ?? '';
    this.groups.push({
      base: stemOf(path),
      folder: familyFolder(path),
      assets: [asset],
      hasModel: false,
      kinds: new Set(),
      parent: number,
      reason: '',
    });
    return number;
  }

  private join(number: number, leader: number, reason: string): void {
    const group = this.groups[number];
    const to = this.groups[leader];
    if (!group || !to || number === leader) return;
    group.parent = leader;
    group.reason = reason;
    for (const kind of group.kinds) to.kinds.add(kind);
  }
}
