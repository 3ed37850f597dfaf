/** From the colour of reeds in winter to persimmon: pale and dark ends differ in brightness too, for eyes that see fewer colours. */
const stops: readonly (readonly [number, number, number])[] = [
  [0.86, 0.85, 0.78],
  [0.55, 0.72, 0.66],
  [0.87, 0.62, 0.3],
  [0.62, 0.13, 0.04],
];

/** Colour of a distance in linear light, 0 to 1 a channel: nothing is pale, the greatest is dark. */
export function colourOfDistance(
  metres: number,
  greatestMetres: number,
): readonly [red: number, green: number, blue: number] {
  const share = greatestMetres > 0 ? Math.min(1, metres / greatestMetres) : 0;
  const place = share * (stops.length - 1);
  const at = Math.min(stops.length - 2, Math.floor(place));
  const [low = [0, 0, 0] as const, high = [0, 0, 0] as const] = [stops[at], stops[at + 1]];
  const part = place - at;
  return [
    low[0] + (high[0] - low[0]) * part,
    low[1] + (high[1] - low[1]) * part,
    low[2] + (high[2] - low[2]) * part,
  ];
}
