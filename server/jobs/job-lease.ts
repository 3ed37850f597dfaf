import type { Progress } from '../../contract/work.ts';
import type { Pool } from '../platform/database/pool.ts';
import { ProgressMeter } from './progress-meter.ts';
import { renewLease } from './queue.ts';
import { StoppedError } from './stop.ts';

const reportMs = 500;
/** Points of the chart of speeds; when they are twice as many, every second one goes. */
const chartPoints = 150;

export interface LeaseOptions {
  jobId: number;
  /** Who holds the job's lease. */
  owner: string;
  onProgress?: ((progress: Progress) => void) | undefined;
  /** Aborted when this process is to end. */
  signal: AbortSignal;
}

/** Holds a job while it is carried out: renews its lease, writes its progress, and hears whether it is to stop. */
export class JobLease {
  readonly meter = new ProgressMeter();
  private readonly pool: Pool;
  private readonly options: LeaseOptions;
  private readonly stop = new AbortController();
  private readonly timer: NodeJS.Timeout;
  private counts = { files: 0, bytes: 0 };
  private speeds: [number, number][] = [];
  private everyPoint = 1;
  private points = 0;

  constructor(pool: Pool, options: LeaseOptions) {
    this.pool = pool;
    this.options = options;
    options.signal.addEventListener('abort', () => this.stop.abort(new StoppedError()));
    if (options.signal.aborted) this.stop.abort(new StoppedError());
    this.timer = setInterval(
      () => void this.report().catch((error: unknown) => this.stop.abort(error)),
      reportMs,
    );
  }

  /** Aborted, with the reason, when the job is to stop. */
  get signal(): AbortSignal {
    return this.stop.signal;
  }

  /** Says how far the job is. */
  count(files: number, bytes: number): void {
    this.counts = { files, bytes };
  }

  async report(): Promise<void> {
    const progress = this.meter.measure(this.counts.files, this.counts.bytes);
    this.options.onProgress?.(progress);
    this.notePoint(progress);
    const { jobId, owner } = this.options;
    if (await renewLease(this.pool, jobId, owner, progress, this.speeds)) this.stop.abort(new StoppedError());
  }

  close(): void {
    clearInterval(this.timer);
  }

  private notePoint({ seconds, bytesPerSecond }: Progress): void {
    if (this.points++ % this.everyPoint > 0) return;
    this.speeds.push([seconds, bytesPerSecond]);
    if (this.speeds.length < 2 * chartPoints) return;
    this.speeds = this.speeds.filter((_, index) => index % 2 === 0);
    this.everyPoint *= 2;
  }
}
