import type { Proposal, Sample } from './proposal.ts';

const lookedBytes = 65_536;
const mostLag = 512;

/**
 * Bytes from one thing of a list to the next where no count says it: the lag at which most bytes are equal (autocorrelation).
 * @param from where the list may begin
 */
export function strideOf({ bytes }: Sample, from: number): Proposal[] {
  const end = Math.min(bytes.length, from + lookedBytes);
  const length = end - from;
  if (length < 96) return [];
  const most = Math.min(mostLag, Math.floor(length / 4));
  const equal = new Float64Array(most + 1);
  for (let lag = 1; lag <= most; lag++) {
    let count = 0;
    for (let at = from + lag; at < end; at++) if (bytes[at] === bytes[at - lag]) count++;
    equal[lag] = count / (length - lag);
  }
  const usual = [...equal.subarray(1)].sort((a, b) => a - b)[Math.floor(most / 2)] ?? 0;
  let best = 1;
  for (let lag = 2; lag <= most; lag++) if ((equal[lag] ?? 0) > (equal[best] ?? 0) + 0.01) best = lag;
  // What repeats after 24 bytes repeats after 48 too, now and then a little better.
  for (let lag = 2; lag < best; lag++)
    if (best % lag === 0 && (equal[lag] ?? 0) - usual >= 0.6 * ((equal[best] ?? 0) - usual)) {
      best = lag;
      break;
    }
  const rise = (equal[best] ?? 0) - usual;
  if (best < 3 || rise < 0.08) return [];
  return [
    {
      ...{ kind: 'stride', at: from, bytes: best, stride: best, field: null },
      says: `bytes are equal to those ${best} before them in ${Math.round((equal[best] ?? 0) * 100)} of 100 places, ${Math.round(usual * 100)} at other distances`,
      score: Math.min(0.96, 0.6 + rise * 1.6),
    },
  ];
}

/** Bits of information in a byte, of 8 (Shannon 1948). */
export function entropyOf(bytes: Uint8Array): number {
  const counts = new Uint32Array(256);
  for (const byte of bytes) counts[byte] = (counts[byte] ?? 0) + 1;
  let bits = 0;
  for (const count of counts) {
    const share = count / bytes.length;
    if (count > 0) bits -= share * Math.log2(share);
  }
  return bits;
}

const windowBytes = 4096;

/** Stretches in which every byte is as likely as any other: packed, or locked. */
export function packedOf({ bytes }: Sample): Proposal[] {
  const runs: { begin: number; end: number }[] = [];
  for (let at = 0; at + windowBytes <= bytes.length; at += windowBytes) {
    // 4,096 random bytes have 7.95 bits each, deflated ones nearly as many; text and numbers far less.
    if (entropyOf(bytes.subarray(at, at + windowBytes)) < 7.8) continue;
    const last = runs.at(-1);
    if (last?.end === at) last.end = at + windowBytes;
    else runs.push({ begin: at, end: at + windowBytes });
  }
  return runs.slice(0, 20).map(({ begin, end }) => ({
    ...{ kind: 'packed', at: begin, bytes: end - begin, field: null, score: 0.9 },
    says: `packed or locked: its bytes have ${entropyOf(bytes.subarray(begin, end)).toFixed(2)} of 8 bits each`,
  }));
}

const fewestTexts = 4;

/** Texts one after the other, each with a 0 at its end. */
export function stringsOf({ bytes }: Sample): Proposal[] {
  const found: Proposal[] = [];
  let begin = -1;
  let texts = 0;
  let length = 0;
  const end = (at: number): void => {
    if (texts >= fewestTexts)
      found.push({
        ...{ kind: 'strings', at: begin, bytes: at - begin, score: Math.min(0.97, 0.75 + texts * 0.03) },
        says: `${texts} texts one after the other, each with a 0 at its end`,
        field: { name: 'texts', type: `{ type: string, count: ${texts} }` },
      });
    [begin, texts, length] = [-1, 0, 0];
  };
  let lastEnd = 0;
  for (let at = 0; at < bytes.length; at++) {
    const byte = bytes[at] ?? 0;
    if (byte >= 32 && byte < 127) {
      if (begin < 0) begin = at;
      length++;
    } else if (byte === 0 && length >= 3) {
      texts++;
      length = 0;
      lastEnd = at + 1;
    } else end(lastEnd);
  }
  end(lastEnd);
  return found.sort((a, b) => b.bytes - a.bytes).slice(0, 8);
}
