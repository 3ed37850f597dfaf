/** Where work waits for its turn: a database, an object store. */
export interface Station {
  name: string;
  /** Seconds of it that one piece of work takes. */
  seconds: number;
}

export interface Throughput {
  workers: number;
  /** Pieces of work a second, all workers together. */
  perSecond: number;
  /** By how much more than one worker alone. */
  speedUp: number;
  /** Share of its time in which each station is busy. */
  busy: Record<string, number>;
}

/**
 * What some workers get done who share stations: each works by itself for a while, then needs each station once, and waits where
 * others are before it. The exact mean values of a closed network (Reiser and Lavenberg, "Mean-value analysis of closed multichain
 * queuing networks", Journal of the ACM 27, 1980).
 * @param ownSeconds that a worker takes for a piece of work by itself
 */
export function throughputOf(
  ownSeconds: number,
  stations: readonly Station[],
  mostWorkers: number,
): Throughput[] {
  const waiting = stations.map(() => 0);
  const found: Throughput[] = [];
  for (let workers = 1; workers <= mostWorkers; workers++) {
    const there = stations.map(({ seconds }, at) => seconds * (1 + (waiting[at] ?? 0)));
    const perSecond = workers / (ownSeconds + there.reduce((sum, seconds) => sum + seconds, 0));
    there.forEach((seconds, at) => (waiting[at] = perSecond * seconds));
    found.push({
      workers,
      perSecond,
      speedUp: perSecond / (found[0]?.perSecond ?? perSecond),
      busy: Object.fromEntries(stations.map(({ name, seconds }) => [name, perSecond * seconds])),
    });
  }
  return found;
}
