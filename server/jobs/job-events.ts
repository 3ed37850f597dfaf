import type { Job, JobsEvent } from '../../contract/work.ts';
import type { Pool } from '../platform/database/pool.ts';
import { Listeners } from '../platform/http/listeners.ts';
import { listJobs } from './jobs.ts';

/** Tells of jobs as they change: all of them first, then those that changed. */
export class JobEvents {
  private readonly listeners: Listeners<JobsEvent>;
  /** As they were seen last, by number; null as long as nobody has looked. */
  private seen: ReadonlyMap<number, { job: Job; text: string }> | null = null;

  constructor(pool: Pool) {
    this.listeners = new Listeners(async (post) => {
      const jobs = await listJobs(pool);
      const event = this.changed(jobs);
      if (event) post(event);
    });
  }

  /** @returns ends the listening */
  listen(post: (event: JobsEvent) => void): () => void {
    if (this.listeners.isEmpty) this.seen = null;
    // Who comes later is told what the others know already; what is new comes to all.
    else if (this.seen) post({ isAll: true, jobs: [...this.seen.values()].map(({ job }) => job), gone: [] });
    return this.listeners.add(post);
  }

  private changed(jobs: readonly Job[]): JobsEvent | null {
    const { seen } = this;
    const now = new Map(jobs.map((job) => [job.id, { job, text: JSON.stringify(job) }]));
    this.seen = now;
    if (!seen) return { isAll: true, jobs: [...jobs], gone: [] };
    const changed = jobs.filter(({ id }) => now.get(id)?.text !== seen.get(id)?.text);
    const gone = [...seen.keys()].filter((id) => !now.has(id));
    return changed.length + gone.length > 0 ? { isAll: false, jobs: changed, gone } : null;
  }
}
