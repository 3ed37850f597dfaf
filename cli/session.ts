import { readFileSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import { applicationRoot } from '../server/platform/application-root.ts';
import { failureSchema } from '../contract/failure.ts';
import { absolutePath } from '../server/platform/data-folder.ts';
import { PlainError } from '../server/platform/plain-error.ts';

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
    const { body } = await ask(`${url}/api/health`);
    return (JSON.parse(body) as { data?: string }).data === data ? url : null;
  } catch {
    // It was killed: nobody listens there any more.
    return null;
  }
}

export interface Question {
  /** Sent as JSON. */
  body?: unknown;
  /** POST where there is a body, and GET where there is none, unless something else is said. */
  method?: string;
}

/**
 * Asks a server by Node's own client: the global `fetch` takes longer to load than most answers take.
 */
export function ask(url: string, { body, method }: Question = {}): Promise<{ status: number; body: string }> {
  return new Promise((resolve, reject) => {
    request(url, { method: method ?? (body === undefined ? 'GET' : 'POST') }, (answer) => {
      const pieces: Buffer[] = [];
      answer.on('data', (piece: Buffer) => pieces.push(piece));
      answer.on('end', () =>
        resolve({ status: answer.statusCode ?? 0, body: Buffer.concat(pieces).toString('utf8') }),
      );
      answer.on('error', reject);
    })
      .on('error', reject)
      .end(body === undefined ? undefined : JSON.stringify(body));
  });
}

/** @throws PlainError with what the server says of a question that it does not answer */
export async function askJson(url: string, question?: Question): Promise<unknown> {
  const answer = await ask(url, question);
  const value: unknown = JSON.parse(answer.body);
  if (answer.status < 300) return value;
  throw new PlainError(failureSchema.parse(value).error);
}
