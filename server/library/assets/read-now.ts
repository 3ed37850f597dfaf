import { setTimeout as sleep } from 'node:timers/promises';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import { hasReader } from '../../../core/kinds/read.ts';
import { listReaderProblems } from '../../decode/build-problems.ts';
import type { OnDemandReaders } from '../../decode/on-demand.ts';
import { keepFacts, readFactsOf, type FindFile } from '../../decode/read-facts.ts';
import type { DataFolder } from '../../platform/data-folder.ts';
import type { Pool } from '../../platform/database/pool.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { descriptionsFor } from '../formats/descriptions.ts';
import { findAt } from './assets.ts';
import { factsKey, findFacts } from './facts.ts';

/** Somebody who looks at an asset waits so long for its facts; what takes longer comes when it is there. */
const patienceMs = 1500;

export interface ReadNowServices {
  pool: Pool;
  folder: Pick<DataFolder, 'root'>;
  store: ContentStore;
  readers: Pick<OnDemandReaders, 'facts'>;
}

/** Reads what somebody looks at before its turn comes in the job that reads the build. */
export class ReadNow {
  private readonly services: ReadNowServices;
  private readonly underWay = new Map<string, Promise<void>>();

  constructor(services: ReadNowServices) {
    this.services = services;
  }

  /** Resolves when the facts of an asset are there, or its reader takes longer than anybody wants to wait. */
  async ensure(build: PlacedBuild, path: string, findFile: FindFile): Promise<void> {
    const asset = await findAt(this.services.pool, build, path);
    if (!asset?.hash || !hasReader(asset.format)) return;
    const { hash, format } = asset;
    const key = factsKey(hash, format);
    if ((await findFacts(this.services.pool, [{ hash, format }])).has(key)) return;
    let reading = this.underWay.get(key);
    if (!reading) {
      reading = this.read(build, { path, format, hash }, findFile).finally(() => this.underWay.delete(key));
      this.underWay.set(key, reading);
      // Whoever waits for it hears of a failure; the others have gone.
      reading.catch(() => undefined);
    }
    await Promise.race([reading, sleep(patienceMs, undefined, { ref: false })]);
  }

  private async read(
    build: PlacedBuild,
    asset: { path: string; format: string; hash: string },
    findFile: FindFile,
  ): Promise<void> {
    const { pool, folder, store, readers } = this.services;
    const describe = await descriptionsFor({ pool, folder }, build, [asset.format]);
    const source = { pool, store, readers: readers.facts, findFile, describe };
    const content = (await store.ensureLocal([asset.hash])).get(asset.hash);
    const outcome = await readFactsOf(source, asset, content);
    await keepFacts(pool, store, [outcome]);
    if (outcome.reason !== null) await listReaderProblems(pool, build, [Buffer.from(asset.hash, 'hex')]);
  }
}
