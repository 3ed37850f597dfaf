import type { Mention } from '../../core/kinds/mentions.ts';
import type { Kind } from '../../contract/kinds.ts';
import { formatWithId } from '../../core/kinds/formats.ts';
import { FolderTree } from '../../core/library/folder-tree.ts';
import {
  Families,
  type FamilyAssets,
  type FamilyCorrection,
  type FamilyLink,
} from '../../core/names/families.ts';
import { nameWithoutLevel } from '../../core/names/family-members.ts';
import type { Lexicon } from '../../core/names/lexicon.ts';
import { PartCensus } from '../../core/names/propose.ts';
import { ReferenceGraph, acceptedKey } from '../../core/references/graph.ts';
import type { Places } from '../../core/references/resolve.ts';
import { StemIndex } from '../../core/references/stem-index.ts';
import { spanOf } from '../../core/search/search.ts';
import type { Pool } from '../platform/database/pool.ts';
import { select } from '../platform/database/rows.ts';
import type { ChannelBuilds, Searchable } from './search/channel-tables.ts';
import { hashAt } from './search/text-tables.ts';

/** Everything in one build, as far as it was asked for: folders, parts of names, links, families. */
export class BuildLibrary {
  readonly searchable: Searchable;
  /** As they are now: what people said of names may be newer than the tables. */
  builds: ChannelBuilds;
  readonly sequence: number;
  readonly pool: Pool;
  private readonly channelId: number;
  private foldersMade: FolderTree | null = null;
  private stemsMade: StemIndex | null = null;

  constructor(
    pool: Pool,
    channelId: number,
    searchable: Searchable,
    builds: ChannelBuilds,
    sequence: number,
  ) {
    this.pool = pool;
    this.channelId = channelId;
    this.searchable = searchable;
    this.builds = builds;
    this.sequence = sequence;
  }

  spanOf(number: number): number {
    return spanOf(this.searchable.tables.states, number, this.sequence);
  }

  /** Number of a path of the build, or -1. */
  numberOf(path: string): number {
    const number = this.searchable.index.numberOf(path);
    return number >= 0 && this.spanOf(number) >= 0 ? number : -1;
  }

  get folders(): FolderTree {
    const { tables } = this.searchable;
    const containers = new Set(new TextDecoder().decode(tables.containers.slice()).split('\0'));
    return (this.foldersMade ??= new FolderTree(
      tables.paths,
      tables.states,
      this.sequence,
      (number) => this.spanOf(number),
      (path) => containers.has(path),
    ));
  }

  get stems(): StemIndex {
    return (this.stemsMade ??= new StemIndex(this.searchable.index));
  }

  kindOf(span: number): Kind {
    return formatWithId(this.searchable.tables.states.format[span] ?? 0).kind;
  }

  private censusMade: { lexicon: Lexicon; census: PartCensus } | null = null;

  /** Parts of names, counted over the build, and what builds before it had. */
  census(lexicon: Lexicon): PartCensus {
    if (this.censusMade?.lexicon === lexicon) return this.censusMade.census;
    const census = new PartCensus(lexicon);
    const { index, tables } = this.searchable;
    const { states } = tables;
    for (let number = 0; number < index.size; number++) {
      const first = states.first[states.spanAt[number] ?? 0] ?? 0;
      if (first > this.sequence) continue;
      const span = this.spanOf(number);
      census.add({
        path: index.path(number),
        kind: this.kindOf(Math.max(span, states.spanAt[number] ?? 0)),
        triangles: span < 0 ? NaN : (states.figures.triangles?.[span] ?? NaN),
        first,
        isThere: span >= 0,
      });
    }
    this.censusMade = { lexicon, census };
    return census;
  }

  private placesMade: { lexicon: Lexicon; places: Places } | null = null;

  /** Where mentions are looked up. */
  places(lexicon: Lexicon): Places {
    if (this.placesMade?.lexicon === lexicon) return this.placesMade.places;
    const { index } = this.searchable;
    const isThere = (number: number): boolean => this.spanOf(number) >= 0;
    const levels = new StemIndex(index, (path) => nameWithoutLevel(path, lexicon));
    const places = { index, stems: this.stems, levels, isThere };
    this.placesMade = { lexicon, places };
    return places;
  }

  private graphMade: { lexicon: Lexicon; graph: Promise<ReferenceGraph> } | null = null;

  /** What names what in the build. The lexicon is another one after every change of names, links and families. */
  graph(lexicon: Lexicon): Promise<ReferenceGraph> {
    if (this.graphMade?.lexicon !== lexicon) {
      const made = { lexicon, graph: this.makeGraph(lexicon) };
      this.graphMade = made;
      // What failed is made again when somebody asks again.
      made.graph.catch(() => (this.graphMade = this.graphMade === made ? null : this.graphMade));
    }
    return this.graphMade.graph;
  }

  private async makeGraph(lexicon: Lexicon): Promise<ReferenceGraph> {
    const graph = new ReferenceGraph(this.places(lexicon), await this.acceptedLinks(), (path) =>
      this.numberOf(path),
    );
    const byContent = new Map<string, number[]>();
    const { tables, index } = this.searchable;
    for (let number = 0; number < index.size; number++) {
      const span = this.spanOf(number);
      if (span < 0 || !mayMention.has(this.kindOf(span))) continue;
      const hash = hashAt(tables.hashes, span);
      const numbers = byContent.get(hash);
      if (numbers) numbers.push(number);
      else byContent.set(hash, [number]);
    }
    const found = new Map<number, readonly Mention[]>();
    const hashes = [...byContent.keys()];
    for (let from = 0; from < hashes.length; from += 1000) {
      const rows = await select<{ hash: Buffer; mentions: string }>(
        this.pool,
        'SELECT hash, mentions FROM content_facts WHERE hash IN (?) AND mentions IS NOT NULL',
        [hashes.slice(from, from + 1000).map((hash) => Buffer.from(hash, 'hex'))],
      );
      for (const row of rows) {
        // Readers wrote it down, and nobody else.
        const mentions = JSON.parse(row.mentions) as Mention[];
        for (const number of byContent.get(row.hash.toString('hex')) ?? []) found.set(number, mentions);
      }
    }
    for (const number of [...found.keys()].sort((a, b) => a - b))
      graph.add({ number, mentions: found.get(number) ?? [] });
    return graph;
  }

  private async acceptedLinks(): Promise<Map<string, string>> {
    const rows = await select<{ fromPath: string; text: string; target: string }>(
      this.pool,
      `SELECT a.path AS fromPath, l.text, b.path AS target FROM accepted_links l
         JOIN paths a ON a.digest = l.from_digest JOIN paths b ON b.digest = l.target_digest
        WHERE l.channel_id = ?`,
      [this.channelId],
    );
    return new Map(rows.map(({ fromPath, text, target }) => [acceptedKey(fromPath, text), target]));
  }

  private familiesMade: { lexicon: Lexicon; families: Promise<BuildFamilies> } | null = null;

  families(lexicon: Lexicon): Promise<BuildFamilies> {
    if (this.familiesMade?.lexicon !== lexicon) {
      const made = { lexicon, families: this.makeFamilies(lexicon) };
      this.familiesMade = made;
      made.families.catch(() => (this.familiesMade = this.familiesMade === made ? null : this.familiesMade));
    }
    return this.familiesMade.families;
  }

  private async makeFamilies(lexicon: Lexicon): Promise<BuildFamilies> {
    const graph = await this.graph(lexicon);
    const { index } = this.searchable;
    const numbers = new Uint32Array(index.size);
    let count = 0;
    const placeOf = new Int32Array(index.size).fill(-1);
    for (let number = 0; number < index.size; number++) {
      if (this.spanOf(number) < 0) continue;
      placeOf[number] = count;
      numbers[count++] = number;
    }
    const assets: FamilyAssets = {
      count,
      pathOf: (place) => index.path(numbers[place] ?? 0),
      kindOf: (place) => this.kindOf(this.spanOf(numbers[place] ?? 0)),
    };
    const links: FamilyLink[] = [];
    for (let from = 0; from < count; from++)
      for (const { to, rule } of graph.needs(numbers[from] ?? 0))
        if (rule !== 'name') links.push({ from, to: placeOf[to] ?? -1 });
    const corrections = await this.corrections(placeOf);
    return { numbers, placeOf, families: new Families(assets, lexicon, links, corrections) };
  }

  private async corrections(placeOf: Int32Array): Promise<FamilyCorrection[]> {
    const rows = await select<{ path: string; withPath: string | null }>(
      this.pool,
      `SELECT a.path, b.path AS withPath FROM family_corrections c JOIN paths a ON a.digest = c.path_digest
         LEFT JOIN paths b ON b.digest = c.with_digest WHERE c.channel_id = ? ORDER BY a.path`,
      [this.channelId],
    );
    return rows.flatMap(({ path, withPath }) => {
      const asset = placeOf[this.numberOf(path)] ?? -1;
      const other = withPath === null ? null : (placeOf[this.numberOf(withPath)] ?? -1);
      // What is not in this build says nothing of it.
      return asset < 0 || (other !== null && other < 0) ? [] : [{ asset, with: other }];
    });
  }
}

export interface BuildFamilies {
  /** Number of each asset's path, and the other way round. */
  numbers: Uint32Array;
  placeOf: Int32Array;
  families: Families;
}

/** Kinds whose contents can name others. */
const mayMention: ReadonlySet<string> = new Set(['model', 'clip', 'map', 'text']);
