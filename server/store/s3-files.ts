import type { Client } from 'minio';
import { NotFoundError, PlainError, messageOf } from '../platform/plain-error.ts';
import type { RemoteFiles } from './remote-files.ts';

export interface S3Place {
  bucket: string;
  /** What all names in it begin with; empty, or ends with `/`. */
  prefix: string;
}

/**
 * Reads `s3://BUCKET/PREFIX`. Keys are no part of it: they stand in the environment, where no list of processes shows them.
 * @throws PlainError
 */
export function parseS3Address(address: string): S3Place {
  const match = /^s3:\/\/([a-z0-9][a-z0-9.-]{1,61}[a-z0-9])(?:\/([^?#]*))?$/.exec(address);
  if (!match)
    throw new PlainError(`WORVEL_STORE is ${address}; it has to be s3://BUCKET or s3://BUCKET/PREFIX.`);
  const [, bucket = '', path = ''] = match;
  const prefix = path.replace(/\/+$/, '');
  return { bucket, prefix: prefix === '' ? '' : `${prefix}/` };
}

/** What the client of the protocol is made of, from the environment. @throws PlainError where something is missing */
export function s3Options(environment: NodeJS.ProcessEnv): {
  endPoint: string;
  port: number;
  useSSL: boolean;
  accessKey: string;
  secretKey: string;
  region: string;
  pathStyle: boolean;
} {
  const {
    WORVEL_S3_ENDPOINT: endpoint,
    AWS_ACCESS_KEY_ID: accessKey,
    AWS_SECRET_ACCESS_KEY: secretKey,
  } = environment;
  if (!endpoint || !accessKey || !secretKey)
    throw new PlainError(
      'An object store needs WORVEL_S3_ENDPOINT (such as https://store.example:9000), AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY.',
    );
  if (!URL.canParse(endpoint))
    throw new PlainError(`WORVEL_S3_ENDPOINT is ${endpoint}, which is no address.`);
  const { protocol, hostname, port, username } = new URL(endpoint);
  if (!['http:', 'https:'].includes(protocol) || username !== '')
    throw new PlainError(
      'WORVEL_S3_ENDPOINT has to be an http or https address without a name and a password.',
    );
  const useSSL = protocol === 'https:';
  return {
    endPoint: hostname,
    port: port === '' ? (useSSL ? 443 : 80) : Number(port),
    useSSL,
    accessKey,
    secretKey,
    region: environment.AWS_REGION ?? 'us-east-1',
    pathStyle: true,
  };
}

/** Objects of a store that speaks the S3 protocol. */
export class S3Files implements RemoteFiles {
  private readonly place: S3Place;
  private readonly environment: NodeJS.ProcessEnv;
  private connecting: Promise<Client> | null = null;

  constructor(place: S3Place, environment: NodeJS.ProcessEnv = process.env) {
    this.place = place;
    this.environment = environment;
  }

  async put(name: string, file: string): Promise<void> {
    await this.run(name, async (client) =>
      client.fPutObject(this.place.bucket, this.place.prefix + name, file),
    );
  }

  async fetch(name: string, file: string): Promise<void> {
    await this.run(name, async (client) =>
      client.fGetObject(this.place.bucket, this.place.prefix + name, file),
    );
  }

  async fetchPart(name: string, offset: number, size: number): Promise<Buffer> {
    if (size === 0) return Buffer.alloc(0);
    return this.run(name, async (client) => {
      const { bucket, prefix } = this.place;
      const stream = await client.getPartialObject(bucket, prefix + name, offset, size);
      const pieces: Buffer[] = [];
      for await (const piece of stream) pieces.push(piece as Buffer);
      return Buffer.concat(pieces);
    });
  }

  async remove(name: string): Promise<void> {
    await this.run(name, async (client) => client.removeObject(this.place.bucket, this.place.prefix + name));
  }

  async *list(beginning: string): AsyncGenerator<{ name: string; bytes: number }> {
    const { bucket, prefix } = this.place;
    const client = await this.connect();
    for await (const item of client.listObjectsV2(bucket, prefix + beginning, true) as AsyncIterable<{
      name?: string;
      size: number;
    }>)
      if (item.name !== undefined) yield { name: item.name.slice(prefix.length), bytes: item.size };
  }

  private async run<T>(name: string, work: (client: Client) => Promise<T>): Promise<T> {
    try {
      return await work(await this.connect());
    } catch (error) {
      const code = (error as { code?: string }).code;
      if (code === 'NoSuchKey' || code === 'NotFound')
        throw new NotFoundError(`The object store has no ${name}.`);
      throw new PlainError(
        `The object store ${this.place.bucket} did not do its part with ${name}: ${messageOf(error)}.`,
      );
    }
  }

  /** The package is loaded only where there is an object store. */
  private connect(): Promise<Client> {
    return (this.connecting ??= import('minio').then(
      ({ Client }) => new Client(s3Options(this.environment)),
    ));
  }
}
