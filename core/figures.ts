import type { Bounds } from '../contract/facts.ts';

export function bytesText(bytes: number | null): string {
  if (bytes === null) return 'unknown size';
  if (bytes < 1000) return plural(bytes, 'byte');
  const units = ['kB', 'MB', 'GB', 'TB'];
  let value = bytes;
  let unit = -1;
  while (value >= 999.5 && unit < units.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${value < 10 ? value.toFixed(1) : Math.round(value)} ${units[unit] ?? 'TB'}`;
}

export function secondsText(seconds: number): string {
  if (seconds < 60) return `${seconds.toFixed(2)} s`;
  return `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`;
}

/** Of the largest sample, 1 being full scale. */
export function peakText(peak: number): string {
  return peak > 0 ? `${(20 * Math.log10(peak)).toFixed(1)} dBFS` : 'silence';
}

/** Width, height and depth. */
export function extentText(bounds: Bounds | null, unit = 'm'): string {
  if (!bounds) return 'none';
  return `${[0, 1, 2].map((axis) => ((bounds.max[axis] ?? 0) - (bounds.min[axis] ?? 0)).toFixed(2)).join(' × ')} ${unit}`;
}

export function plural(count: number, noun: string): string {
  return `${count.toLocaleString('en')} ${noun}${count === 1 ? '' : 's'}`;
}
