import type { Raster } from '../../reading.ts';
import { fromLight, toLight } from '../../srgb.ts';

/** What a surface that is no metal reflects. */
const dielectric = 0.04;
const smallest = 1e-6;

type Colour = readonly [number, number, number];

/**
 * From the workflow of diffuse and specular colours to that of base colour and metalness: the conversion of Khronos's
 * `KHR_materials_pbrSpecularGlossiness` (appendix and example of conversion between workflows).
 * @param diffuse linear, 0 to 1
 * @param specular linear, 0 to 1
 */
export function metalOf(
  diffuse: Colour,
  specular: Colour,
): { base: [number, number, number]; metalness: number } {
  const notSpecular = 1 - Math.max(...specular);
  const metalness = solve(brightness(diffuse), brightness(specular), notSpecular);
  const base = diffuse.map((value, at) => {
    const fromDiffuse = (value * notSpecular) / (1 - dielectric) / Math.max(1 - metalness, smallest);
    const fromSpecular = ((specular[at] ?? 0) - dielectric * (1 - metalness)) / Math.max(metalness, smallest);
    const mixed = fromDiffuse + (fromSpecular - fromDiffuse) * metalness ** 2;
    return Math.max(0, Math.min(1, mixed));
  });
  return { base: base as [number, number, number], metalness };
}

function solve(diffuse: number, specular: number, notSpecular: number): number {
  if (specular < dielectric) return 0;
  const b = (diffuse * notSpecular) / (1 - dielectric) + specular - 2 * dielectric;
  const root = Math.sqrt(Math.max(0, b * b - 4 * dielectric * (dielectric - specular)));
  return Math.max(0, Math.min(1, (root - b) / (2 * dielectric)));
}

function brightness([red, green, blue]: Colour): number {
  return Math.sqrt(0.299 * red ** 2 + 0.587 * green ** 2 + 0.114 * blue ** 2);
}

/** The same for whole pictures, in the size of the diffuse one; metalness comes as a grey picture. */
export function metalPictures(diffuse: Raster, specular: Raster): { base: Raster; metalness: Raster } {
  const { width, height } = diffuse;
  const base = new Uint8Array(diffuse.rgba);
  const metalness = new Uint8Array(base.length).fill(255);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4;
      const other =
        (Math.floor((y * specular.height) / height) * specular.width +
          Math.floor((x * specular.width) / width)) *
        4;
      const found = metalOf(lightAt(diffuse.rgba, at), lightAt(specular.rgba, other));
      for (let channel = 0; channel < 3; channel++) {
        base[at + channel] = Math.round(fromLight(found.base[channel] ?? 0) * 255);
        metalness[at + channel] = Math.round(found.metalness * 255);
      }
    }
  return { base: { width, height, rgba: base }, metalness: { width, height, rgba: metalness } };
}

/** Linear light of the 256 steps of sRGB. */
const light = Float64Array.from({ length: 256 }, (_, step) => toLight(step / 255));

function lightAt(rgba: Uint8Array, at: number): Colour {
  return [light[rgba[at] ?? 0] ?? 0, light[rgba[at + 1] ?? 0] ?? 0, light[rgba[at + 2] ?? 0] ?? 0];
}
