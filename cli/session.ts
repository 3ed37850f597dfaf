import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { applicationRoot } from '../server/application-root.ts';
import { absolutePath } from '../server/data-folder.ts';

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
    const answer = await fetch(`${url}/api/health`, { signal: AbortSignal.timeout(2000) });
    const health = (await answer.json()) as { data?: string };
    return health.data === data ? url : null;
  } catch {
    // It was killed: nobody listens there any more.
    return null;
  }
}
