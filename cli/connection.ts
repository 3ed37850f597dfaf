import { failureSchema } from '../contract/failure.ts';
import type { Job, Progress } from '../contract/work.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { absolutePath } from '../server/platform/data-folder.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { readFileSync } from 'node:fs';
import { userInfo } from 'node:os';
import { join } from 'node:path';
import { personCookie } from '../server/people/person-cookie.ts';
import type { Application } from '../server/main/application.ts';
import { followJob, sendRequest } from './server-client.ts';

export interface Question {
  /** Sent as JSON. */
  body?: unknown;
  /** POST where there is a body, and GET where there is none, unless something else is said. */
  method?: 'GET' | 'POST' | 'PUT' | 'DELETE';
}

/**
 * The application of a data folder: that of the server which runs on it (its threads are warm), or one in this process where
 * none runs. A command does not know which.
 */
export interface Connection {
  /** What stands at an address below `/api`. @throws PlainError with the answer's reason */
  getText(path: string, question?: Question): Promise<string>;
  /** Sees a job to its end; Ctrl-C stops it. @throws PlainError with the reason where it fails or is stopped */
  follow(job: Job, onProgress: (progress: Progress) => void): Promise<Job>;
}

/** @throws PlainError with the answer's reason */
export async function getJson(connection: Connection, path: string, question?: Question): Promise<unknown> {
  return JSON.parse(await connection.getText(path, question));
}

/** Connects to the application for as long as `work` takes. */
export async function withApplication<T>(
  data: string,
  work: (connection: Connection) => Promise<T>,
): Promise<T> {
  const server = await runningServer(data);
  if (server !== null) return work(connectToServer(server));
  // Loaded only where this process does the work.
  const [{ withDatabase }, { openApplication }] = await Promise.all([
    import('./with-database.ts'),
    import('../server/main/application.ts'),
  ]);
  return withDatabase(data, async (session) => {
    const report = (message: string): void => void process.stderr.write(`${message}\n`);
    const application = openApplication(session, { report, isForOneCommand: true });
    try {
      return await work(connectHere(application, session.signal));
    } finally {
      await application.close();
    }
  });
}

/** The application of a server. */
export function connectToServer(url: string): Connection {
  return {
    getText: async (path, question) => textOf(await sendRequest(`${url}/api/${path}`, question)),
    follow: (job, onProgress) => followJob(url, job, onProgress),
  };
}

/** An application in this process. @param signal stops the job that is followed */
export function connectHere({ app, runner }: Application, signal: AbortSignal): Connection {
  return {
    async getText(path, { body, method } = {}) {
      const answer = await app.request(`/api/${path}`, {
        method: method ?? (body === undefined ? 'GET' : 'POST'),
        headers: { cookie: personCookie(userInfo().username) },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      return textOf({ status: answer.status, body: await answer.text() });
    },
    follow: ({ id }, onProgress) => runner.runOne(id, signal, onProgress),
  };
}

function textOf({ status, body }: { status: number; body: string }): string {
  if (status < 300) return body;
  throw new PlainError(failureSchema.parse(JSON.parse(body)).error);
}

export function dataPath(option: string | undefined): string {
  return absolutePath(option ?? process.env.WORVEL_DATA ?? join(applicationRoot, '.worvel'));
}

/** The address of a server that runs on the data folder; null where none answers. */
export async function runningServer(data: string): Promise<string | null> {
  let url: string;
  try {
    url = (JSON.parse(readFileSync(join(data, 'server.json'), 'utf8')) as { url: string }).url;
  } catch {
    // No server has been started here, or it ended and took the file with it.
    return null;
  }
  try {
    const { body } = await sendRequest(`${url}/api/health`);
    return (JSON.parse(body) as { data?: string }).data === data ? url : null;
  } catch {
    // It was killed: nobody listens there any more.
    return null;
  }
}
