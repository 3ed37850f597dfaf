import { FloatType, RedFormat } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js';
import { ReadError } from '../../reading.ts';
import type { Picture } from '../picture.ts';
import { singleImage, sizeProblem } from './single.ts';

/** Radiance HDR (RGBE): linear light in floats. @throws ReadError */
export function readRadiance(bytes: Uint8Array): Picture {
  // Size and packing stand in the text before the pixels: "-Y 512 +X 1024".
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 4096));
  const [, height = '0', width = '0'] = /-Y (\d+) \+X (\d+)\n/.exec(head) ?? [];
  const size = { width: Number(width), height: Number(height) };
  const problem = sizeProblem(size.width, size.height);
  if (problem)
    throw new ReadError(
      'this Radiance picture cannot be read: no line such as “-Y 512 +X 1024” in its first 4096 bytes',
    );
  return singleImage(
    { ...size, channels: 3, hasAlpha: false, bitsPerChannel: 8, colourSpace: 'linear', encoding: 'RGBE' },
    () => {
      const found = parse('Radiance picture', () =>
        new HDRLoader().setDataType(FloatType).parse(copyOf(bytes)),
      );
      return found.data as Float32Array;
    },
  );
}

/** OpenEXR: linear light in half or whole floats, as the loader has it: scan lines and tiles, one part. @throws ReadError */
export function readExr(bytes: Uint8Array): Picture {
  const found = parse('OpenEXR picture', () => new EXRLoader().setDataType(FloatType).parse(copyOf(bytes)));
  const { width, height } = found as { width: number; height: number };
  const problem = sizeProblem(width, height);
  if (problem) throw new ReadError(`this OpenEXR picture cannot be read: its header tells of ${problem}`);
  const { compression, channels } = (found as unknown as { header: ExrHeader }).header;
  const hasAlpha = channels.some(({ name }) => name === 'A');
  return singleImage(
    {
      width,
      height,
      channels: channels.length,
      hasAlpha,
      bitsPerChannel: channels[0]?.pixelType === 2 ? 32 : 16,
      colourSpace: 'linear',
      encoding: compression.replace('_COMPRESSION', ''),
    },
    () => upright(found.data as Float32Array, width, height, found.format === RedFormat),
  );
}

interface ExrHeader {
  compression: string;
  channels: { name: string; pixelType: number }[];
}

/** The loader's rows come from the bottom, and of grey pictures it gives one channel. */
function upright(data: Float32Array, width: number, height: number, isGrey: boolean): Float32Array {
  const result = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++) {
    const from = (height - 1 - y) * width;
    for (let x = 0; x < width; x++) {
      const to = (y * width + x) * 4;
      for (let channel = 0; channel < 4; channel++)
        result[to + channel] = isGrey
          ? channel === 3
            ? 1
            : (data[from + x] ?? 0)
          : (data[(from + x) * 4 + channel] ?? 0);
    }
  }
  return result;
}

function parse<Result>(what: string, work: () => Result): Result {
  try {
    return work();
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    throw new ReadError(`this ${what} cannot be read: ${reason.replace(/^THREE\.\w+: /, '')}`);
  }
}

function copyOf(bytes: Uint8Array): ArrayBuffer {
  // A subclass's own `slice` need not copy.
  return new Uint8Array(bytes).buffer;
}
