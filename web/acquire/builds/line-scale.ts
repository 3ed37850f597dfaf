/**
 * Which marks of a line have room for their labels: those that must be read first, then the newest, then whatever does not touch
 * one of these.
 * @param places of the marks in pixels, ascending
 * @param first numbers of the marks whose labels are always shown
 * @param width of a label in pixels
 */
export function labelledMarks(
  places: readonly number[],
  first: readonly number[],
  width: number,
): ReadonlySet<number> {
  const shown = new Set(first);
  const order = [...places.keys()].reverse();
  for (const index of order) {
    const place = places[index] ?? 0;
    const touches = [...shown].some(
      (other) => other !== index && Math.abs((places[other] ?? 0) - place) < width,
    );
    if (!touches) shown.add(index);
  }
  return shown;
}

/**
 * Places marks along a line by their times. Marks that would touch are pushed apart, later ones to the right and,
 * where the line ends, earlier ones to the left: to scale as far as there is room.
 * @param times in milliseconds, ascending
 * @param width of the line in pixels
 * @param gap between neighbours, at the least, in pixels
 * @returns a place for each in 0 to `width`
 */
export function placeMarks(times: readonly number[], width: number, gap: number): number[] {
  const first = times[0] ?? 0;
  const span = (times.at(-1) ?? 0) - first;
  const room = Math.min(gap, times.length > 1 ? width / (times.length - 1) : gap);
  const places = times.map((time) => (span > 0 ? ((time - first) / span) * width : width / 2));
  for (let index = 1; index < places.length; index++) {
    places[index] = Math.max(places[index] ?? 0, (places[index - 1] ?? 0) + room);
  }
  let limit = width;
  for (let index = places.length - 1; index >= 0; index--) {
    places[index] = Math.min(places[index] ?? 0, limit);
    limit = (places[index] ?? 0) - room;
  }
  return places;
}
