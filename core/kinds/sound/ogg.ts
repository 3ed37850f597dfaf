export interface OggState {
  /** Granule position of the page that is marked as the last; null where that is missing. */
  lastGranule: number | null;
  /** Where a page is not as its own checksum has it, or is no page; null where all are. */
  damagedAt: number | null;
}

/** CRC of 32 bits, polynomial 0x04c11db7, from the highest bit down, begun with zero (RFC 3533, section 6). */
const crcTable = Uint32Array.from({ length: 256 }, (_, byte) => {
  let value = byte << 24;
  for (let bit = 0; bit < 8; bit++) value = value & 0x80000000 ? (value << 1) ^ 0x04c11db7 : value << 1;
  return value >>> 0;
});

/** Goes through the pages of an Ogg stream, and checks each by its checksum. */
export function checkOgg(bytes: Uint8Array): OggState {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let lastGranule: number | null = null;
  for (let at = 0; at < bytes.length;) {
    if (at + 27 > bytes.length || view.getUint32(at) !== 0x4f676753) return { lastGranule, damagedAt: at };
    const segments = view.getUint8(at + 26);
    let length = 27 + segments;
    for (let segment = 0; segment < segments && at + 27 + segment < bytes.length; segment++)
      length += view.getUint8(at + 27 + segment);
    if (at + length > bytes.length || crcOf(bytes, at, length) !== view.getUint32(at + 22, true))
      return { lastGranule, damagedAt: at };
    if (view.getUint8(at + 5) & 4) lastGranule = Number(view.getBigInt64(at + 6, true));
    at += length;
  }
  return { lastGranule, damagedAt: null };
}

/** The four bytes of the checksum itself count as zeros. */
function crcOf(bytes: Uint8Array, from: number, length: number): number {
  let crc = 0;
  for (let at = 0; at < length; at++) {
    const byte = at >= 22 && at < 26 ? 0 : (bytes[from + at] ?? 0);
    crc = (crc << 8) ^ (crcTable[((crc >>> 24) ^ byte) & 255] ?? 0);
  }
  return crc >>> 0;
}

/** Samples at the beginning of an Opus stream that are not to be heard (RFC 7845, section 5.1). */
export function opusPreSkip(bytes: Uint8Array): number {
  const head = bytes.subarray(0, 512);
  const at = Array.from({ length: head.length - 12 }, (_, place) => place).find(
    (place) => String.fromCharCode(...head.subarray(place, place + 8)) === 'OpusHead',
  );
  return at === undefined ? 0 : (head[at + 10] ?? 0) | ((head[at + 11] ?? 0) << 8);
}
