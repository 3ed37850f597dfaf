import type { Kind } from '../../contract/kinds.ts';
import type { NameRole } from '../../contract/names.ts';
import { FamilyGroups } from './family-groups.ts';
import { areParallel, familyFolder } from './family-folder.ts';
import type { Lexicon } from './lexicon.ts';
import { splitName, stemOf } from './split.ts';

/** The files of a build, as far as families look at them: a build of a million is not copied. */
export interface FamilyAssets {
  count: number;
  pathOf: (place: number) => string;
  kindOf: (place: number) => Kind;
}

/** A link between two files, by their places. */
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

/** A base that stands in more folders than these is a name of a sort (body, base), and says nothing of whose it is. */
const mostFolders = 4;

/** Things and what they are made of: each file is in one family, which may be of it alone. */
export class Families {
  private readonly groups = new FamilyGroups();
  private readonly groupOf: Int32Array;
  private readonly corrected = new Map<number, string>();
  private readonly assets: FamilyAssets;
  /** Places of the members by family: those of one begin where `beginOf` says. */
  private readonly members: Uint32Array;
  private readonly beginOf: Uint32Array;

  /** @param links those that are sure: guesses by name gather nothing */
  constructor(
    assets: FamilyAssets,
    lexicon: Lexicon,
    links: readonly FamilyLink[],
    corrections: readonly FamilyCorrection[] = [],
  ) {
    this.assets = assets;
    this.groupOf = new Int32Array(assets.count);
    this.groupByName(lexicon);
    this.joinDefinitions(links);
    this.joinParallelFolders();
    this.joinByLinks(links);
    this.joinByBeginning();
    this.correct(corrections);
    this.beginOf = new Uint32Array(this.groups.count + 1);
    const { beginOf } = this;
    for (let asset = 0; asset < assets.count; asset++) {
      const after = this.familyOf(asset) + 1;
      beginOf[after] = (beginOf[after] ?? 0) + 1;
    }
    for (let group = 0; group < this.groups.count; group++)
      beginOf[group + 1] = (beginOf[group + 1] ?? 0) + (beginOf[group] ?? 0);
    const next = beginOf.slice();
    this.members = new Uint32Array(assets.count);
    for (let asset = 0; asset < assets.count; asset++) {
      const family = this.familyOf(asset);
      const place = next[family] ?? 0;
      this.members[place] = asset;
      next[family] = place + 1;
    }
  }

  /** Number of the family of a file. */
  familyOf(asset: number): number {
    return this.groups.top(this.groupOf[asset] ?? 0);
  }

  membersOf(family: number): Uint32Array {
    return this.members.subarray(this.beginOf[family], this.beginOf[family + 1]);
  }

  /** Families of more than one file, those with most files first. */
  list(): { family: number; name: string; folder: string; members: Uint32Array }[] {
    const list: { family: number; name: string; folder: string; members: Uint32Array }[] = [];
    for (let family = 0; family < this.groups.count; family++) {
      const members = this.membersOf(family);
      if (members.length > 1) list.push({ family, ...this.nameOf(family), members });
    }
    return list.sort(
      (a, b) =>
        b.members.length - a.members.length ||
        (a.name < b.name ? -1 : a.name > b.name ? 1 : a.family - b.family),
    );
  }

  nameOf(family: number): { name: string; folder: string } {
    return { name: this.groups.base(family), folder: this.groups.folder(family) };
  }

  /** Why a file is in its family, in the order of the steps that led there. */
  reasonsFor(asset: number): string[] {
    const said = this.corrected.get(asset);
    if (said !== undefined) return [said];
    const { groups } = this;
    const first = this.groupOf[asset] ?? 0;
    const base = groups.base(first);
    const folder = groups.folder(first);
    const reasons: string[] = [];
    if (groups.size(first) > 1)
      reasons.push(`its name without what varies is “${base}”${folder === '' ? '' : `, in ${folder}`}`);
    for (let group = first; groups.parent(group) !== group; group = groups.parent(group))
      reasons.push(groups.reason(group));
    return reasons.length > 0 ? reasons : [`it gave the family its name, “${base}”`];
  }

  private groupByName(lexicon: Lexicon): void {
    for (let asset = 0; asset < this.assets.count; asset++) {
      const path = this.assets.pathOf(asset);
      const folder = familyFolder(path);
      const named = lexicon.read(splitName(stemOf(path), lexicon.rules));
      const stays = named.map(({ entry }) => entry === null || !varying.has(entry.role));
      // What stands first says what a thing is, where something that stays follows: `mask_wall` is a mask.
      if (stays.includes(true)) stays[0] = true;
      const base = named.flatMap(({ part }, at) => (stays[at] ? [part] : [])).join('_');
      // A file named by what varies alone (`l0.glb`) is named by its folder.
      const name = base === '' ? folder.slice(folder.lastIndexOf('/') + 1) : base;
      this.groupOf[asset] = this.groups.add(name, folder, this.assets.kindOf(asset));
    }
    this.groups.seal();
  }

  /** A definition that names the model of one thing alone is that thing's. */
  private joinDefinitions(links: readonly FamilyLink[]): void {
    const models = new Map<number, { family: number; to: number } | null>();
    for (const { from, to } of links) {
      const group = this.groupOf[from] ?? 0;
      if (this.assets.kindOf(to) !== 'model' || this.groups.has(group, 'model')) continue;
      const family = this.groupOf[to] ?? 0;
      const before = models.get(group);
      if (before === undefined) models.set(group, { family, to });
      else if (before && before.family !== family) models.set(group, null);
    }
    for (const [group, named] of models)
      if (named && this.groups.hasOnly(group, ['text']))
        this.groups.join(group, named.family, `it names ${this.assets.pathOf(named.to)}, and no other thing`);
  }

  /** The same name in parallel folders is the same thing, where it is no name that stands everywhere. */
  private joinParallelFolders(): void {
    const { groups } = this;
    for (const same of groups.byBase()) {
      if (same.length < 2 || same.length > mostFolders) continue;
      const leader = same.find((number) => groups.has(number, 'model')) ?? same[0] ?? 0;
      for (const number of same) {
        if (groups.parent(number) !== number || number === leader) continue;
        const [folder, to] = [groups.folder(number), groups.folder(leader)];
        if (!areParallel(folder, to)) continue;
        // Two models of one name in two folders are two things.
        if (groups.has(number, 'model') && folder !== to) continue;
        groups.join(
          number,
          leader,
          `“${groups.base(leader)}” stands in a folder beside that is parallel to ${to === '' ? 'the root' : to}`,
        );
      }
    }
  }

  /** What only one family names belongs to it: textures to their model, sounds and clips to who plays them. */
  private joinByLinks(links: readonly FamilyLink[]): void {
    const namedBy = new Map<number, { leader: number; from: number } | null>();
    for (const { from, to } of links) {
      const kind = this.assets.kindOf(from);
      // Maps and lists name things that are not theirs.
      if (kind !== 'model' && kind !== 'clip') continue;
      const [leader, target] = [this.familyOf(from), this.familyOf(to)];
      if (leader === target) continue;
      const before = namedBy.get(target);
      if (before === undefined) namedBy.set(target, { leader, from });
      else if (before && before.leader !== leader) namedBy.set(target, null);
    }
    for (const [target, by] of namedBy) {
      if (!by || this.groups.has(target, 'model') || this.familyOf(by.from) === target) continue;
      const reason = `only ${this.assets.pathOf(by.from)} and its family name it`;
      this.groups.join(target, this.familyOf(by.from), reason);
    }
  }

  /** Clips and sounds begin with the name of whose they are: `heron_walk` is the heron's. */
  private joinByBeginning(): void {
    const { groups } = this;
    const models = new Map<string, number[]>();
    for (let number = 0; number < groups.count; number++) {
      if (!groups.has(number, 'model') || groups.parent(number) !== number) continue;
      const known = models.get(groups.base(number));
      if (known) known.push(number);
      else models.set(groups.base(number), [number]);
    }
    for (let number = 0; number < groups.count; number++) {
      if (groups.parent(number) !== number || !groups.hasOnly(number, ['clip', 'sound', 'picture'])) continue;
      const base = groups.base(number);
      for (let end = base.lastIndexOf('_'); end > 0; end = base.lastIndexOf('_', end - 1)) {
        const begin = base.slice(0, end);
        const leaders = (models.get(begin) ?? []).filter((leader) =>
          areParallel(groups.folder(leader), groups.folder(number)),
        );
        const [leader] = leaders;
        if (leader === undefined || leaders.length > 1) continue;
        groups.join(number, leader, `its name begins with “${begin}”`);
        break;
      }
    }
  }

  private correct(corrections: readonly FamilyCorrection[]): void {
    for (const { asset, with: other } of corrections) {
      const path = this.assets.pathOf(asset);
      this.groupOf[asset] =
        other === null
          ? this.groups.addAlone(stemOf(path), familyFolder(path), this.assets.kindOf(asset))
          : this.familyOf(other);
      this.corrected.set(
        asset,
        other === null
          ? 'a person took it out of its family'
          : `a person put it to ${this.assets.pathOf(other)}`,
      );
    }
  }
}
