/** CRC-32 of ISO 3309, reflected, with 0xEDB88320, as gzip (RFC 1952, section 8) and ZIP have it. */
export function crc32(bytes: Uint8Array): number {
  let crc = 0xffffffff;
  for (let at = 0; at < bytes.length; at++)
    crc = (crcTable[(crc ^ (bytes[at] as number)) & 0xff] as number) ^ (crc >>> 8);
  return ~crc >>> 0;
}

const crcTable = Int32Array.from({ length: 256 }, (_, byte) => {
  let value = byte;
  for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1;
  return value;
});

/** Adler-32 (RFC 1950, section 8.2). */
export function adler32(bytes: Uint8Array): number {
  let [low, high] = [1, 0];
  for (let at = 0; at < bytes.length;) {
    // So many fit before the sums reach 32 bits.
    for (const end = Math.min(bytes.length, at + 3800); at < end; at++) {
      low += bytes[at] as number;
      high += low;
    }
    low %= 65_521;
    high %= 65_521;
  }
  return high * 65_536 + low;
}

export function sum(bytes: Uint8Array): number {
  let total = 0;
  for (const byte of bytes) total += byte;
  return total;
}

/** FNV-1a (draft-eastlake-fnv, RFC 9923). */
export function fnv1a32(bytes: Uint8Array): number {
  let hash = 0x811c9dc5;
  for (const byte of bytes) hash = Math.imul(hash ^ byte, 0x01000193);
  return hash >>> 0;
}

export function fnv1a64(bytes: Uint8Array): bigint {
  let hash = 0xcbf29ce484222325n;
  for (const byte of bytes) hash = BigInt.asUintN(64, (hash ^ BigInt(byte)) * 0x100000001b3n);
  return hash;
}
