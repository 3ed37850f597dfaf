import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import S3rver from 's3rver';

/** A small stand-in for an object store, for as long as a group of tests lasts. */
export class TestObjectStore {
  private readonly root = mkdtempSync(join(tmpdir(), 'worvel-test-objects-'));
  private readonly server = new S3rver({
    port: 0,
    address: '127.0.0.1',
    silent: true,
    directory: this.root,
    configureBuckets: [{ name: 'games', configs: [] }],
  });
  /** What a process needs in its environment to keep its contents here. */
  environment: Record<string, string> = {};

  async open(prefix = ''): Promise<void> {
    const { port } = await this.server.run();
    this.environment = {
      WORVEL_STORE: `s3://games/${prefix}`,
      WORVEL_S3_ENDPOINT: `http://127.0.0.1:${port}`,
      AWS_ACCESS_KEY_ID: 'S3RVER',
      AWS_SECRET_ACCESS_KEY: 'S3RVER',
    };
  }

  async close(): Promise<void> {
    await this.server.close();
    rmSync(this.root, { recursive: true, force: true });
  }
}
