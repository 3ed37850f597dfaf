/** A time as exact as it is known: milliseconds below a second. */
export function timeText(seconds: number): string {
  const ms = seconds * 1000;
  if (ms < 10) return `${Number(ms.toFixed(1))} ms`;
  if (ms < 1000) return `${Math.round(ms)} ms`;
  if (seconds < 60) return `${Number(seconds.toFixed(3))} s`;
  const whole = Math.floor(seconds / 60);
  return `${whole} min ${Number((seconds - whole * 60).toFixed(2))} s`;
}

/** From one time to another, in the same unit. */
export function rangeText({ from, to }: { from: number; to: number }): string {
  return `from ${timeText(from)} to ${timeText(to)}`;
}
