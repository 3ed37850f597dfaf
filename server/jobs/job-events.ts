import type { Job, JobsEvent } from '../../contract/work.ts';
import type { Pool } from '../platform/database/pool.ts';
import { Listeners } from '../platform/http/listeners.ts';
import { listJobs } from './jobs.ts';

/** Tells of jobs as they change: all of them first, then those that changed. */
export class JobEvents {
  private readonly listeners: Listeners<JobsEvent>;
  /** As they were seen last, by number. */
  private seen = new Map<number, { job: Job; text: string }>();

  constructor(pool: Pool) {
    this.listeners = new Listeners(async (post) => {
      const jobs = await listJobs(pool);
      const event = this.changed(jobs);
      if (event) post(event);
    });
  }

  /** @returns ends the listening */
  listen(post: (event: JobsEvent) => void): () => void {
    if (this.listeners.isEmpty) this.seen = new Map();
    // Who comes later is told what the others know already; what is new comes to all.
    else post({ isAll: true, jobs: [...this.seen.values()].map(({ job }) => job), gone: [] });
    let isFirst = this.listeners.isEmpty;
    return this.listeners.add((event) => {
      post(isFirst ? { ...event, isAll: true } : event);
      isFirst = false;
    });
  }

  private changed(jobs: readonly Job[]): JobsEvent | null {
    const isAll = this.seen.size === 0;
    const now = new Map(jobs.map((job) => [job.id, { job, text: JSON.stringify(job) }]));
    const changed = jobs.filter(({ id }) => now.get(id)?.text !== this.seen.get(id)?.text);
    const gone = [...this.seen.keys()].filter((id) => !now.has(id));
    this.seen = now;
    return isAll || changed.length + gone.length > 0 ? { isAll, jobs: changed, gone } : null;
  }
}
