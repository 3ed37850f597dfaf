import type { Kind } from '../../contract/kinds.ts';
import type { FreshPart, LexiconEntry, NameRole, Proposal } from '../../contract/names.ts';
import { languageCodes } from '../kinds/text/language.ts';
import { commonParts } from './common-parts.ts';
import { meaningWith, type Lexicon } from './lexicon.ts';
import { numberIn, patternOf, splitName, stemOf } from './split.ts';

/** A file of a build, as far as its name is looked at. */
export interface NamedAsset {
  path: string;
  kind: Kind;
  /** NaN where it has none. */
  triangles: number;
  /** Place of the build that had its path first. */
  first: number;
  /** Whether the build has it; what only builds before had says which parts are not new. */
  isThere: boolean;
}

interface PartStatistics {
  pattern: string;
  assets: number;
  folders: number;
  lastFolder: string;
  kinds: Map<Kind, number>;
  examples: string[];
  /** Places of the build that had it first. */
  first: number;
  /** Groups of names that are the same but for this part. */
  groups: number;
  /** Of these, those in which it is a counter whose models lose triangles as it rises, and those in which they do not. */
  falling: number;
  rising: number;
  /** The other parts that stand in its place, and how often. */
  others: Map<string, number>;
  numbers: Set<number>;
}

const mostProposals = 60;
const mostExamples = 3;
/** Alternatives are looked for in so many names; a build of a million says nothing more than its first part. */
const mostGrouped = 400_000;

/** What is known of the parts of a build's names. */
export class PartCensus {
  private readonly parts = new Map<string, PartStatistics>();
  private readonly groups = new Map<string, { part: string; pattern: string; triangles: number }[]>();
  private grouped = 0;
  /** Parts of files that the build has no more, with the place of the build that had them first. */
  private readonly earlier = new Map<string, number>();
  private readonly lexicon: Lexicon;

  constructor(lexicon: Lexicon) {
    this.lexicon = lexicon;
  }

  /** Assets come in the order of their paths. */
  add({ path, kind, triangles, first, isThere }: NamedAsset): void {
    const slash = path.lastIndexOf('/');
    const folder = path.slice(0, slash + 1);
    const parts = splitName(stemOf(path), this.lexicon.rules);
    parts.forEach((part, at) => {
      const pattern = patternOf(part);
      if (pattern === '#') return;
      if (!isThere) {
        this.earlier.set(pattern, Math.min(first, this.earlier.get(pattern) ?? first));
        return;
      }
      this.count(pattern, path, folder, kind, first);
      if (this.grouped >= mostGrouped) return;
      const rest = `${folder}${parts.map((other, place) => (place === at ? '*' : other)).join('_')} ${kind}`;
      const group = this.groups.get(rest);
      if (group) group.push({ part, pattern, triangles });
      else this.groups.set(rest, [{ part, pattern, triangles }]);
      this.grouped++;
    });
    if (isThere) this.addLanguageFolders(folder, path, kind, first);
  }

  /** What the parts may mean, those that are surest first. */
  proposals(refused: readonly string[]): Proposal[] {
    this.compare();
    const without = new Set(refused);
    const proposals: (Proposal & { weight: number })[] = [];
    for (const statistics of this.parts.values()) {
      if (without.has(statistics.pattern) || this.isKnown(statistics.pattern)) continue;
      const proposal = proposalOf(statistics);
      if (proposal) proposals.push({ ...proposal, assets: statistics.assets, examples: statistics.examples });
    }
    proposals.sort((a, b) => b.weight - a.weight || b.assets - a.assets || (a.part < b.part ? -1 : 1));
    return proposals.slice(0, mostProposals).map(({ part, role, meaning, evidence, assets, examples }) => ({
      part,
      role,
      meaning,
      evidence,
      assets,
      examples,
    }));
  }

  /** Parts that a build has and none before it had, with what is known of them. */
  freshParts(sequence: number): FreshPart[] {
    const fresh = [...this.parts.values()].filter(
      ({ pattern, first }) => first === sequence && !this.earlier.has(pattern),
    );
    fresh.sort((a, b) => b.assets - a.assets || (a.pattern < b.pattern ? -1 : 1));
    return fresh.slice(0, 500).map(({ pattern, assets, examples }) => {
      const known = this.lexicon.entryOf(pattern);
      return { part: pattern, assets, examples, meaning: known ? meaningWith(known.entry, null) : '' };
    });
  }

  private isKnown(pattern: string): boolean {
    const known = this.lexicon.entryOf(pattern);
    return known !== null && known.entry.saidBy !== 'common practice';
  }

  private count(pattern: string, path: string, folder: string, kind: Kind, first: number): PartStatistics {
    let statistics = this.parts.get(pattern);
    if (!statistics) {
      statistics = {
        pattern,
        assets: 0,
        folders: 0,
        lastFolder: '',
        kinds: new Map(),
        examples: [],
        first,
        groups: 0,
        falling: 0,
        rising: 0,
        others: new Map(),
        numbers: new Set(),
      };
      this.parts.set(pattern, statistics);
    }
    statistics.assets++;
    statistics.first = Math.min(statistics.first, first);
    statistics.kinds.set(kind, (statistics.kinds.get(kind) ?? 0) + 1);
    if (statistics.examples.length < mostExamples && statistics.examples.at(-1) !== path)
      statistics.examples.push(path);
    if (statistics.lastFolder !== folder || statistics.assets === 1) statistics.folders++;
    statistics.lastFolder = folder;
    return statistics;
  }

  /** Folders named by a code of a language count as its parts: many games keep a folder to each. */
  private addLanguageFolders(folder: string, path: string, kind: Kind, first: number): void {
    for (const segment of folder.toLowerCase().split('/')) {
      if (!languageCodes.has(segment)) continue;
      const rest = `${folder.toLowerCase().replace(segment, '*')}${path.slice(folder.length)}`;
      this.count(segment, path, folder, kind, first);
      const group = this.groups.get(rest);
      if (group) group.push({ part: segment, pattern: segment, triangles: NaN });
      else this.groups.set(rest, [{ part: segment, pattern: segment, triangles: NaN }]);
    }
  }

  /** Compares names that are the same but for one part. */
  private compare(): void {
    for (const group of this.groups.values()) {
      if (group.length < 2) continue;
      const patterns = [...new Set(group.map(({ pattern }) => pattern))];
      for (const pattern of patterns) {
        const statistics = this.parts.get(pattern);
        if (!statistics) continue;
        statistics.groups++;
        for (const other of patterns)
          if (other !== pattern) statistics.others.set(other, (statistics.others.get(other) ?? 0) + 1);
        const counted = group
          .filter((member) => member.pattern === pattern)
          .map(({ part, triangles }) => ({ number: numberIn(part) ?? 0, triangles }))
          .sort((a, b) => a.number - b.number);
        for (const { number } of counted) statistics.numbers.add(number);
        const first = counted[0]?.triangles ?? NaN;
        const last = counted.at(-1)?.triangles ?? NaN;
        if (counted.length < 2 || Number.isNaN(first) || Number.isNaN(last)) continue;
        if (last < first) statistics.falling++;
        else if (last > first) statistics.rising++;
      }
    }
    this.groups.clear();
  }
}

type Weighted = Omit<Proposal, 'assets' | 'examples'> & { weight: number };

function proposalOf(statistics: PartStatistics): Weighted | null {
  return counterOf(statistics) ?? alternativeOf(statistics) ?? frequentOf(statistics);
}

const commonByPart: ReadonlyMap<string, LexiconEntry> = new Map(
  commonParts.map((entry) => [entry.part, entry]),
);

/** Numbers that count: levels of detail where triangles fall with them (the lower the finer: common practice). */
function counterOf({ pattern, falling, rising, groups, kinds, numbers }: PartStatistics): Weighted | null {
  if (!pattern.includes('#') || groups === 0 || numbers.size < 2) return null;
  const values = [...numbers].sort((a, b) => a - b);
  const [low = 0, high = 0] = [values[0], values.at(-1)];
  const counted = `counts from ${pattern.replace('#', String(low))} to ${pattern.replace('#', String(high))} in ${groups} ${groups === 1 ? 'set' : 'sets'} of names that are otherwise the same`;
  if (falling >= 1 && falling >= rising * 4)
    return {
      part: pattern,
      role: 'LOD',
      meaning: 'level of detail #',
      evidence: `${counted}; triangles fall with the number in ${falling} of ${falling + rising}`,
      weight: 1000 + falling,
    };
  const known = commonByPart.get(pattern);
  const pictures = kinds.get('picture') ?? 0;
  if (known?.role === 'palette number' && pictures > 0)
    return {
      part: pattern,
      role: known.role,
      meaning: known.meaning,
      evidence: `${counted}, in pictures`,
      weight: 600,
    };
  return null;
}

/** Parts that stand where others of their sort stand, in names that are otherwise the same. */
function alternativeOf({ pattern, groups, others }: PartStatistics): Weighted | null {
  if (groups === 0 || others.size === 0) return null;
  const common = commonByPart.get(pattern);
  const among = [...others].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1));
  const named = among
    .slice(0, 3)
    .map(([other]) => other)
    .join(', ');
  const evidence = `stands in place of ${named} in ${groups} ${groups === 1 ? 'set' : 'sets'} of names that are otherwise the same`;
  const propose = (role: NameRole, meaning: string, weight: number): Weighted => ({
    part: pattern,
    role,
    meaning,
    evidence,
    weight: weight + Math.min(groups, 99),
  });
  if (languageCodes.has(pattern) && among.some(([other]) => languageCodes.has(other)))
    return propose('language', languageName(pattern), 900);
  if (common) return propose(common.role, common.meaning, 800);
  const beside = among.map(([other]) => commonByPart.get(other)).find((entry) => entry !== undefined);
  // It stands where texture roles stand: what it means is for a person to say.
  if (beside?.role === 'texture role' && !pattern.includes('#')) return propose('texture role', '', 300);
  return null;
}

/** Short parts that things of several folders or kinds share: whom or what they belong to. */
function frequentOf({ pattern, assets, folders, kinds }: PartStatistics): Weighted | null {
  if (pattern.includes('#') || pattern.length < 2 || assets < 4) return null;
  if (folders < 2 && kinds.size < 2) return null;
  const spread = [...kinds]
    .sort((a, b) => b[1] - a[1])
    .map(
      ([kind, count]) => `${count.toLocaleString('en')} ${kind}${count === 1 || kind === 'other' ? '' : 's'}`,
    )
    .join(', ');
  const isShort = pattern.length <= 4;
  return {
    part: pattern,
    role: 'belongs to',
    meaning: '',
    evidence: `stands in ${assets.toLocaleString('en')} names in ${folders.toLocaleString('en')} ${folders === 1 ? 'folder' : 'folders'}: ${spread}`,
    weight: (isShort ? 100 : 0) + kinds.size * 20 + Math.min(folders, 20),
  };
}

function languageName(code: string): string {
  return new Intl.DisplayNames('en', { type: 'language' }).of(code) ?? code;
}
