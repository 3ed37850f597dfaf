import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname } from 'node:path';
import { ReadError, type BasisFile } from '../../core/kinds/reading.ts';

/** What the transcoder's own script gives. */
interface Transcoder {
  initializeBasis(): void;
  KTX2File: new (bytes: Uint8Array) => Ktx2File;
}

interface Ktx2File {
  isValid(): boolean;
  startTranscoding(): boolean;
  getImageLevelInfo(level: number, layer: number, face: number): { origWidth: number; origHeight: number };
  getImageTranscodedSizeInBytes(level: number, layer: number, face: number, format: number): number;
  transcodeImage(
    to: Uint8Array,
    level: number,
    layer: number,
    face: number,
    format: number,
    hasAlphaForOpaque: number,
    channel0: number,
    channel1: number,
  ): boolean;
  close(): void;
  delete(): void;
}

const rgba32 = 13;

let loading: Promise<Transcoder> | null = null;

/** The transcoder's script is no module: it is given what such scripts find around them. */
function loadTranscoder(): Promise<Transcoder> {
  return (loading ??= (async () => {
    const require = createRequire(import.meta.url);
    const script = require.resolve('three/examples/jsm/libs/basis/basis_transcoder.js');
    const wasmBinary = readFileSync(script.replace(/\.js$/, '.wasm'));
    // eslint-disable-next-line @typescript-eslint/no-implied-eval
    const make = new Function(
      'require',
      '__filename',
      '__dirname',
      `${readFileSync(script, 'utf8')}; return BASIS;`,
    ) as (...around: unknown[]) => (options: { wasmBinary: Uint8Array }) => Promise<Transcoder>;
    const transcoder = await make(require, script, dirname(script))({ wasmBinary });
    transcoder.initializeBasis();
    return transcoder;
  })());
}

/** Opens a KTX2 file of Basis Universal; its images come as RGBA. @throws ReadError */
export async function openBasis(bytes: Uint8Array): Promise<BasisFile> {
  const { KTX2File } = await loadTranscoder();
  const file = new KTX2File(bytes);
  const close = (): void => {
    file.close();
    file.delete();
  };
  if (!file.isValid() || !file.startTranscoding()) {
    close();
    throw new ReadError('this KTX2 file cannot be unpacked: its Basis Universal data are damaged');
  }
  return {
    close,
    image(level, layer, face) {
      const { origWidth: width, origHeight: height } = file.getImageLevelInfo(level, layer, face);
      const data = new Uint8Array(file.getImageTranscodedSizeInBytes(level, layer, face, rgba32));
      return file.transcodeImage(data, level, layer, face, rgba32, 0, -1, -1)
        ? { width, height, data }
        : null;
    },
  };
}
