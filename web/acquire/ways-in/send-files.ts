import { chunkBytes, type Upload } from '../../../contract/ways-in.ts';

const waitsMs = [1000, 2000, 4000, 8000, 15_000, 30_000];

export interface FileToSend {
  path: string;
  file: Blob;
}

/**
 * Sends what is missing of an upload, chunk by chunk, each with its hash. A connection that is lost is tried again with
 * growing waits.
 * @param onProgress bytes that have come, of all files
 * @throws Error with the server's reason; what came before counts, and the upload can go on
 */
export async function sendFiles(
  upload: Upload,
  files: readonly FileToSend[],
  signal: AbortSignal,
  onProgress: (bytes: number, state: 'sending' | 'waiting for the server') => void,
): Promise<void> {
  const byPath = new Map(files.map(({ path, file }) => [path, file]));
  let done = upload.files.reduce((sum, { received }) => sum + received, 0);
  for (const [number, { path, size, received }] of upload.files.entries()) {
    const file = byPath.get(path);
    if (!file || file.size !== size)
      throw new Error(`The file ${path} is not the one that the upload began with.`);
    for (let offset = received; offset < size; offset += chunkBytes) {
      const bytes = await file.slice(offset, offset + chunkBytes).arrayBuffer();
      await sendChunk(`/api/uploads/${upload.id}/files/${number}`, offset, bytes, signal, () =>
        onProgress(done, 'waiting for the server'),
      );
      done += bytes.byteLength;
      onProgress(done, 'sending');
    }
  }
}

async function sendChunk(
  url: string,
  offset: number,
  bytes: ArrayBuffer,
  signal: AbortSignal,
  onWait: () => void,
): Promise<void> {
  const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', bytes));
  const sha256 = [...digest].map((byte) => byte.toString(16).padStart(2, '0')).join('');
  for (let attempt = 0; ; attempt++) {
    signal.throwIfAborted();
    let answer: Response | null = null;
    try {
      answer = await fetch(`${url}?offset=${offset}&sha256=${sha256}`, {
        method: 'PUT',
        body: bytes,
        signal,
      });
    } catch {
      // Nobody answered: the connection is lost, or the server starts anew.
      signal.throwIfAborted();
    }
    if (answer?.ok) return;
    if (answer && answer.status < 500) throw new Error(((await answer.json()) as { error: string }).error);
    onWait();
    const waitMs = waitsMs[Math.min(attempt, waitsMs.length - 1)] ?? 0;
    await new Promise((resolve) => setTimeout(resolve, waitMs));
  }
}

/** A file's path as it was chosen or dropped: folders count where a folder was. */
export function pathOfFile(file: File & { path?: string; relativePath?: string }): string {
  const path =
    file.webkitRelativePath !== '' ? file.webkitRelativePath : (file.relativePath ?? file.path ?? file.name);
  return path.replace(/^\.?\/+/, '');
}
