/** From a code value of sRGB, 0 to 1, to linear light (IEC 61966-2-1). */
export function toLight(value: number): number {
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
}

/** The way back. */
export function fromLight(light: number): number {
  return light <= 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055;
}
