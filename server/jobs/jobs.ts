import { intakeResultSchema } from '../../contract/builds.ts';
import {
  jobReportSchema,
  jobSchema,
  progressSchema,
  type Job,
  type JobKind,
  type JobState,
} from '../../contract/work.ts';
import { parseColumn, select, selectOne, type Queryable } from '../platform/database/rows.ts';
import { NotFoundError } from '../platform/plain-error.ts';

interface JobRow {
  id: number;
  kind: JobKind;
  priority: number;
  attempts: number;
  subject: string;
  state: JobState;
  title: string | null;
  channel: string | null;
  build: string | null;
  source: string;
  progress: unknown;
  result: unknown;
  report: unknown;
  speeds: unknown;
  error: string | null;
  createdAt: Date;
  finishedAt: Date | null;
}

const jobColumns = `SELECT j.id, j.kind, j.priority, j.attempts, j.subject, j.report, j.speeds, j.state, t.name AS title, c.name AS channel, b.label AS build, j.source, j.progress, j.result,
    j.error, j.created_at AS createdAt, j.finished_at AS finishedAt
  FROM jobs j LEFT JOIN builds b ON b.id = j.build_id LEFT JOIN channels c ON c.id = b.channel_id
    LEFT JOIN titles t ON t.id = c.title_id`;

/** The newest hundred, newest first. */
export async function listJobs(database: Queryable): Promise<Job[]> {
  return (await select<JobRow>(database, `${jobColumns} ORDER BY j.id DESC LIMIT 100`)).map(toJob);
}

/** @throws NotFoundError */
export async function findJob(database: Queryable, jobId: number): Promise<Job> {
  const row = await selectOne<JobRow>(database, `${jobColumns} WHERE j.id = ?`, [jobId]);
  if (!row) throw new NotFoundError(`There is no job ${jobId}.`);
  return toJob(row);
}

function toJob(row: JobRow): Job {
  const progress = parseColumn(row.progress);
  const result = parseColumn(row.result);
  const report = parseColumn(row.report);
  const speeds = parseColumn(row.speeds);
  return {
    ...row,
    title: row.title ?? '',
    channel: row.channel ?? '',
    build: row.build ?? '',
    report: report === null ? null : jobReportSchema.parse(report),
    speeds: speeds === null ? [] : jobSchema.shape.speeds.parse(speeds),
    progress: progress === null ? null : progressSchema.parse(progress),
    result: result === null ? null : intakeResultSchema.parse(result),
    createdAt: row.createdAt.toISOString(),
    finishedAt: row.finishedAt?.toISOString() ?? null,
  };
}
