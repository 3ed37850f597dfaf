import type { Object3D } from 'three';
import type { MapScene } from '../../../contract/assets.ts';
import { loadModel } from '../engine/load-model.ts';
import { partsOf } from '../engine/model-parts.ts';
import { giveDecoders } from '../model-decoders.ts';

export type LoadedModel = { scene: Object3D } | { reason: string };

const loadedAtOnce = 6;
const toldMs = 300;

/** The models of a map: fetched a few at a time, the most wanted first, as long as the budget lasts. */
export class MapModels {
  /** Told after models have come: not after each of hundreds that come one after the other. */
  onLoaded: () => void = () => undefined;
  /** Of all that was fetched, and is on its way. */
  bytes = 0;
  private readonly costs: MapScene['costs'];
  private readonly addressesOf: (path: string) => readonly string[];
  private readonly models = new Map<string, LoadedModel>();
  private readonly loading = new Set<string>();
  private readonly stopping = new AbortController();
  /** Models that are to be loaded, the most wanted first. */
  private wanted: readonly string[] = [];
  private mostBytes = 0;
  private waiting: ReturnType<typeof setTimeout> | null = null;

  /** @param addressesOf where a model is loaded from, the next one where the one before cannot be shown */
  constructor(costs: MapScene['costs'], addressesOf: (path: string) => readonly string[]) {
    this.costs = costs;
    this.addressesOf = addressesOf;
  }

  /** A model that is here, or why it cannot be shown; undefined where it was not fetched yet. */
  get(path: string): LoadedModel | undefined {
    return this.models.get(path);
  }

  /** How many are on their way. */
  get onTheWay(): number {
    return this.loading.size;
  }

  /** How many are here. */
  get here(): number {
    return this.models.size - this.failures.length;
  }

  /** Why models cannot be shown, each once. */
  get failures(): string[] {
    return [...this.models.values()].flatMap((model) => ('reason' in model ? [model.reason] : []));
  }

  /** Says which ones are wanted now, instead of those that were. @param mostBytes of all that may be fetched */
  want(paths: readonly string[], mostBytes: number): void {
    this.wanted = paths;
    this.mostBytes = mostBytes;
    this.fetch();
  }

  close(): void {
    this.stopping.abort();
    if (this.waiting !== null) clearTimeout(this.waiting);
    this.onLoaded = () => undefined;
  }

  private fetch(): void {
    for (const path of this.wanted) {
      if (this.loading.size >= loadedAtOnce) return;
      if (this.models.has(path)) continue;
      const bytes = this.costs[path]?.bytes ?? 0;
      if (this.loading.has(path) || (this.bytes > 0 && this.bytes + bytes > this.mostBytes)) continue;
      this.loading.add(path);
      this.bytes += bytes;
      void this.load(path).then((loaded) => {
        this.loading.delete(path);
        if (this.stopping.signal.aborted) return;
        this.models.set(path, loaded);
        this.fetch();
        this.waiting ??= setTimeout(() => {
          this.waiting = null;
          this.onLoaded();
        }, toldMs);
      });
    }
  }

  private async load(path: string): Promise<LoadedModel> {
    const { signal } = this.stopping;
    let reason = 'it has no address';
    for (const address of this.addressesOf(path))
      try {
        const { scene } = await loadModel(address, { signal, giveDecoders });
        // Players do not see helper shapes, and a map of thousands has no time for them.
        for (const { mesh, entry } of partsOf(scene)) if (entry.helper) mesh.removeFromParent();
        return { scene };
      } catch (error) {
        reason = error instanceof Error ? error.message : String(error);
        if (signal.aborted) break;
      }
    return { reason: `${path}: ${reason}` };
  }
}
