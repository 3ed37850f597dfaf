import { createCipheriv, createHmac, pbkdf2Sync } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';

/** Strength of the cipher as the format numbers it, and the bytes of its key. */
export const strengths = [
  [1, 16],
  [2, 24],
  [3, 32],
] as const;

export interface Lock {
  passphrase: string;
  /** 1 to 3. See `strengths`. */
  strength: 1 | 2 | 3;
  /** Bytes of salt for an entry; half as many as the key has. The same salt gives the same bytes. */
  salt: (name: string, length: number) => Buffer;
}

/**
 * Writes a ZIP whose entries are locked by AES as AE-2 ("AES Encryption Information: Encryption Specification AE-1 and
 * AE-2"): PBKDF2 with HMAC-SHA1 and 1000 rounds gives the key of the cipher, the key of the seal and two bytes of check; AES
 * in counter mode, the counter little endian and from 1; ten bytes of HMAC-SHA1 over the locked bytes. No CRC is kept.
 */
export function lockedZip(files: ReadonlyMap<string, Uint8Array>, lock: Lock): Buffer {
  const locals: Buffer[] = [];
  const centrals: Buffer[] = [];
  let offset = 0;
  for (const [name, content] of files) {
    const nameBytes = Buffer.from(name, 'utf8');
    const data = lockBytes(deflateRawSync(content), name, lock);
    // Extra field 0x9901 of 7 bytes: version 2, "AE", strength, the method beneath (8, deflate).
    const extra = Buffer.from([0x01, 0x99, 7, 0, 2, 0, 0x41, 0x45, lock.strength, 8, 0]);
    const common = Buffer.alloc(26);
    common.writeUInt16LE(51, 0);
    // Locked, and the name in UTF-8.
    common.writeUInt16LE(0x801, 2);
    common.writeUInt16LE(99, 4);
    common.writeUInt16LE(0x5c21, 8);
    common.writeUInt32LE(data.length, 14);
    common.writeUInt32LE(content.length, 18);
    common.writeUInt16LE(nameBytes.length, 22);
    common.writeUInt16LE(extra.length, 24);
    const local = Buffer.concat([Buffer.from('PK\x03\x04'), common, nameBytes, extra, data]);
    const place = Buffer.alloc(14);
    place.writeUInt32LE(offset, 10);
    centrals.push(
      Buffer.concat([Buffer.from('PK\x01\x02'), Buffer.from([51, 0]), common, place, nameBytes, extra]),
    );
    locals.push(local);
    offset += local.length;
  }
  const directory = Buffer.concat(centrals);
  const end = Buffer.alloc(22);
  end.write('PK\x05\x06', 0, 'latin1');
  end.writeUInt16LE(files.size, 8);
  end.writeUInt16LE(files.size, 10);
  end.writeUInt32LE(directory.length, 12);
  end.writeUInt32LE(offset, 16);
  return Buffer.concat([...locals, directory, end]);
}

function lockBytes(packed: Buffer, name: string, { passphrase, strength, salt }: Lock): Buffer {
  const keyBytes = 8 + strength * 8;
  const grain = salt(name, keyBytes / 2);
  const keys = pbkdf2Sync(passphrase, grain, 1000, 2 * keyBytes + 2, 'sha1');
  const cipher = createCipheriv(`aes-${keyBytes * 8}-ecb`, keys.subarray(0, keyBytes), null).setAutoPadding(
    false,
  );
  const counters = Buffer.alloc(Math.ceil(packed.length / 16) * 16);
  for (let block = 0; block * 16 < counters.length; block++) counters.writeUInt32LE(block + 1, block * 16);
  const stream = cipher.update(counters);
  const locked = packed.map((byte, at) => byte ^ (stream[at] ?? 0));
  const seal = createHmac('sha1', keys.subarray(keyBytes, 2 * keyBytes))
    .update(locked)
    .digest();
  return Buffer.concat([grain, keys.subarray(2 * keyBytes), locked, seal.subarray(0, 10)]);
}
