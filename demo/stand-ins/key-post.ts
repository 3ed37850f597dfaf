import type { IncomingMessage, ServerResponse } from 'node:http';

/** A simulated key post: it gives out a build's key some time after the build is out. */
export class KeyPost {
  private readonly keys: ReadonlyMap<string, string>;
  private readonly outSince: (build: string) => string | undefined;
  private readonly delayMs: number;

  /**
   * @param keys by the label of the build
   * @param outSince when a build came out, ISO 8601; undefined while it has not
   */
  constructor(
    keys: ReadonlyMap<string, string>,
    outSince: (build: string) => string | undefined,
    delayMs: number,
  ) {
    this.keys = keys;
    this.outSince = outSince;
    this.delayMs = delayMs;
  }

  answer(request: IncomingMessage, response: ServerResponse): void {
    const { pathname, searchParams } = new URL(request.url ?? '/', 'http://post');
    const build = searchParams.get('build') ?? '';
    const since = this.outSince(build);
    const key = this.keys.get(build);
    const isOut = since !== undefined && Date.now() - Date.parse(since) >= this.delayMs;
    if (pathname !== '/keys' || key === undefined || !isOut) {
      response.writeHead(404).end('No key yet.\n');
      return;
    }
    response
      .writeHead(200, { 'Content-Type': 'application/json' })
      .end(JSON.stringify({ form: 'passphrase', key, remark: 'from the key post' }));
  }
}
