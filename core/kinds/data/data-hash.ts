import { decimalOf, LongNumber } from '../parse-json.ts';

/** Four lanes of 32 bits, of what was hashed last: handed on without making anything. */
let a = 0;
let b = 0;
let c = 0;
let d = 0;

const enum Sort {
  Text = 1,
  Number = 2,
  True = 3,
  False = 4,
  Null = 5,
  List = 6,
  Pairs = 7,
}

/**
 * 16 bytes of data that are the same for the same values, whatever the order of the keys of objects is; lists keep theirs.
 * Lanes of multiplications by odd constants (after MurmurHash3, Appleby, in the public domain). Writing the data anew with
 * their keys in order, and hashing that, took five times as long.
 * @returns null where they are nested deeper than calls may be
 */
export function hashOfData(root: unknown): Uint8Array | null {
  try {
    hashValue(root, new Map());
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
  return new Uint8Array(Int32Array.of(a, b, c, d).buffer);
}

function hashValue(value: unknown, keys: Map<string, Int32Array>): void {
  switch (typeof value) {
    case 'string':
      hashText(Sort.Text, value);
      return;
    case 'number':
      hashText(Sort.Number, String(value));
      return;
    case 'boolean':
      hashText(value ? Sort.True : Sort.False, '');
      return;
    default:
      if (typeof value !== 'object' || value === null) hashText(Sort.Null, '');
      else if (value instanceof LongNumber) hashText(Sort.Number, decimalOf(value.value));
      else if (Array.isArray(value)) hashList(value as unknown[], keys);
      else hashPairs(value as Record<string, unknown>, keys);
  }
}

function hashList(list: readonly unknown[], keys: Map<string, Int32Array>): void {
  let [p, q, r, s] = [Sort.List as number, list.length, 0x7f4a7c15, 0x2545f491];
  for (const item of list) {
    hashValue(item, keys);
    p = Math.imul(p ^ a, 0x85ebca6b);
    q = Math.imul(q ^ b, 0xc2b2ae35);
    r = Math.imul(r ^ c, 0x27d4eb2f);
    s = Math.imul(s ^ d, 0x165667b1);
    p = (p << 13) | (p >>> 19);
    q = (q << 17) | (q >>> 15);
  }
  settle(p, q, r, s);
}

/** The sum of its pairs, in which order says nothing. */
function hashPairs(pairs: Readonly<Record<string, unknown>>, keys: Map<string, Int32Array>): void {
  let [p, q, r, s] = [Sort.Pairs as number, 0, 0, 0];
  for (const key of Object.keys(pairs)) {
    hashValue(pairs[key], keys);
    let known = keys.get(key);
    if (!known) {
      const [va, vb, vc, vd] = [a, b, c, d];
      hashText(Sort.Text, key);
      keys.set(key, (known = Int32Array.of(a, b, c, d)));
      a = va;
      b = vb;
      c = vc;
      d = vd;
    }
    settle(
      Math.imul(a ^ (known[0] ?? 0), 0x85ebca6b),
      Math.imul(b ^ (known[1] ?? 0), 0xc2b2ae35),
      Math.imul(c ^ (known[2] ?? 0), 0x27d4eb2f),
      Math.imul(d ^ (known[3] ?? 0), 0x165667b1),
    );
    p = (p + a) | 0;
    q = (q + b) | 0;
    r = (r + c) | 0;
    s = (s + d) | 0;
  }
  settle(p, q, r, s);
}

function hashText(sort: Sort, text: string): void {
  let [p, q, r, s] = [0x243f6a88 ^ sort, 0x13198a2e ^ text.length, 0x03707344, 0x299f31d0];
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    p = Math.imul(p ^ code, 0x85ebca6b);
    q = Math.imul(q ^ code, 0xc2b2ae35);
    p = (p << 15) | (p >>> 17);
    q = (q << 13) | (q >>> 19);
    r = Math.imul(r ^ p, 0x27d4eb2f);
    s = Math.imul(s ^ q, 0x165667b1);
  }
  settle(p, q, r, s);
}

/** Mixes the lanes, so that each bit hangs on all that went in (the finish of MurmurHash3). */
function settle(p: number, q: number, r: number, s: number): void {
  const sum = (p + q + r + s) | 0;
  a = finish(p + sum);
  b = finish(q + Math.imul(sum, 3));
  c = finish(r + Math.imul(sum, 5));
  d = finish(s + Math.imul(sum, 7));
}

function finish(lane: number): number {
  let mixed = lane | 0;
  mixed = Math.imul(mixed ^ (mixed >>> 16), 0x85ebca6b);
  mixed = Math.imul(mixed ^ (mixed >>> 13), 0xc2b2ae35);
  return mixed ^ (mixed >>> 16);
}
