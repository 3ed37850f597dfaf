/** CIE 1976 L*a*b* under D65, 2° observer. */
export type Lab = readonly [lightness: number, a: number, b: number];

/** sRGB transfer curve, IEC 61966-2-1. */
const linearOfByte = Float64Array.from({ length: 256 }, (_, byte) => {
  const value = byte / 255;
  return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
});

/** f of CIE 15:2004, section 8.2.1, in a table over 0 to 1.1: taking the root for each pixel took most of the time. */
const rootSteps = 8192;
const roots = Float64Array.from({ length: Math.ceil(rootSteps * 1.1) + 2 }, (_, at) => root(at / rootSteps));

function root(value: number): number {
  return value > 216 / 24_389 ? Math.cbrt(value) : ((24_389 / 27) * value + 16) / 116;
}

function rootNear(value: number): number {
  const place = value * rootSteps;
  const at = Math.floor(place);
  // Near zero the curve is too bent for straight lines between its points.
  if (at < 164) return root(value);
  const low = roots[at] ?? 0;
  return low + ((roots[at + 1] ?? low) - low) * (place - at);
}

/** Lab of an sRGB colour of 8 bits a channel, written into `to` from `at` on. */
export function writeLab(red: number, green: number, blue: number, to: Float64Array, at: number): void {
  const r = linearOfByte[red] ?? 0;
  const g = linearOfByte[green] ?? 0;
  const b = linearOfByte[blue] ?? 0;
  // IEC 61966-2-1 to XYZ, divided by the white point of D65.
  const x = rootNear((0.4124 * r + 0.3576 * g + 0.1805 * b) / 0.9505);
  const y = rootNear(0.2126 * r + 0.7152 * g + 0.0722 * b);
  const z = rootNear((0.0193 * r + 0.1192 * g + 0.9505 * b) / 1.089);
  to[at] = 116 * y - 16;
  to[at + 1] = 500 * (x - y);
  to[at + 2] = 200 * (y - z);
}

const degree = Math.PI / 180;
const pow7 = (value: number): number => value ** 7;
const pow7of25 = 25 ** 7;

/**
 * CIEDE2000 with kL = kC = kH = 1. G. Sharma, W. Wu and E. N. Dalal, "The CIEDE2000 Color-Difference Formula:
 * Implementation Notes, Supplementary Test Data, and Mathematical Observations", Color Research and Application 30, 2005.
 */
export function ciede2000([l1, a1, b1]: Lab, [l2, a2, b2]: Lab): number {
  const meanChroma = (Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2;
  const g = 0.5 * (1 - Math.sqrt(pow7(meanChroma) / (pow7(meanChroma) + pow7of25)));
  const [p1, p2] = [(1 + g) * a1, (1 + g) * a2];
  const [c1, c2] = [Math.hypot(p1, b1), Math.hypot(p2, b2)];
  const [h1, h2] = [hue(p1, b1), hue(p2, b2)];
  const isGrey = c1 * c2 === 0;
  let turn = isGrey ? 0 : h2 - h1;
  if (turn > 180) turn -= 360;
  else if (turn < -180) turn += 360;
  const deltaL = l2 - l1;
  const deltaC = c2 - c1;
  const deltaH = 2 * Math.sqrt(c1 * c2) * Math.sin((turn * degree) / 2);
  const l = (l1 + l2) / 2;
  const c = (c1 + c2) / 2;
  let h = h1 + h2;
  if (!isGrey) {
    if (Math.abs(h1 - h2) <= 180) h /= 2;
    else h = h < 360 ? (h + 360) / 2 : (h - 360) / 2;
  }
  const t =
    1 -
    0.17 * Math.cos((h - 30) * degree) +
    0.24 * Math.cos(2 * h * degree) +
    0.32 * Math.cos((3 * h + 6) * degree) -
    0.2 * Math.cos((4 * h - 63) * degree);
  const rotation = 30 * Math.exp(-(((h - 275) / 25) ** 2));
  const rc = 2 * Math.sqrt(pow7(c) / (pow7(c) + pow7of25));
  const sl = 1 + (0.015 * (l - 50) ** 2) / Math.sqrt(20 + (l - 50) ** 2);
  const sc = 1 + 0.045 * c;
  const sh = 1 + 0.015 * c * t;
  const rt = -Math.sin(2 * rotation * degree) * rc;
  return Math.sqrt(
    (deltaL / sl) ** 2 + (deltaC / sc) ** 2 + (deltaH / sh) ** 2 + rt * (deltaC / sc) * (deltaH / sh),
  );
}

/** In degrees, 0 to 360. */
function hue(a: number, b: number): number {
  if (a === 0 && b === 0) return 0;
  const angle = Math.atan2(b, a) / degree;
  return angle < 0 ? angle + 360 : angle;
}
