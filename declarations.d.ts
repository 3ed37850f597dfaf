declare module '@fontsource/*';
declare module 'draco3dgltf' {
  const draco: { createDecoderModule(): Promise<unknown> };
  export default draco;
}

/** A stand-in for object stores, for tests; its own types are of an older compiler. */
declare module 's3rver' {
  export default class S3rver {
    constructor(options: {
      port: number;
      address: string;
      silent: boolean;
      directory: string;
      configureBuckets: { name: string; configs: string[] }[];
    });
    run(): Promise<{ port: number }>;
    close(): Promise<void>;
  }
}
