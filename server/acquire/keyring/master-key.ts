import { createCipheriv, createDecipheriv, createHmac, randomBytes } from 'node:crypto';
import { chmodSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { PlainError, codeOf } from '../../platform/plain-error.ts';

const keyBytes = 32;
const nonceBytes = 12;
const tagBytes = 16;

/** Encrypts what is kept of keys: AES-256-GCM (NIST SP 800-38D), with a nonce of its own for each. */
export class MasterKey {
  private readonly key: Buffer;

  constructor(key: Buffer) {
    if (key.length !== keyBytes) throw new RangeError('MasterKey: 32 bytes are needed');
    this.key = key;
  }

  /** @param about what the text belongs to: it opens with the same words only. @returns nonce, ciphertext, tag */
  seal(plain: Uint8Array, about: string | Uint8Array, nonce: Buffer = randomBytes(nonceBytes)): Buffer {
    const cipher = createCipheriv('aes-256-gcm', this.key, nonce);
    cipher.setAAD(bytesOf(about));
    return Buffer.concat([nonce, cipher.update(plain), cipher.final(), cipher.getAuthTag()]);
  }

  /** @throws PlainError where the master key is another one, or the bytes are damaged */
  open(sealed: Buffer, about: string | Uint8Array): Buffer {
    const decipher = createDecipheriv('aes-256-gcm', this.key, sealed.subarray(0, nonceBytes));
    decipher.setAAD(bytesOf(about));
    decipher.setAuthTag(sealed.subarray(sealed.length - tagBytes));
    try {
      return Buffer.concat([decipher.update(sealed.subarray(nonceBytes, -tagBytes)), decipher.final()]);
    } catch {
      throw new PlainError(
        'A key of the keyring cannot be opened: the master key is not the one that it was kept with.',
      );
    }
  }

  /** Tells the same key again without telling the key. 16 bytes. */
  mark(plain: Uint8Array): Buffer {
    return createHmac('sha256', this.key).update(plain).digest().subarray(0, 16);
  }
}

/**
 * The master key from `WORVEL_MASTER_KEY` (64 hex digits, or Base64), or from a file of the data folder that only its
 * owner reads. It is made when it is first needed.
 * @throws PlainError when it is there and no good
 */
export function loadMasterKey(dataFolder: string): MasterKey {
  const given = process.env.WORVEL_MASTER_KEY;
  if (given !== undefined && given !== '') {
    const key = Buffer.from(given, /^[0-9a-f]{64}$/i.test(given) ? 'hex' : 'base64');
    if (key.length !== keyBytes)
      throw new PlainError('WORVEL_MASTER_KEY is no key of 32 bytes, in hex or in Base64.');
    return new MasterKey(key);
  }
  const path = join(dataFolder, 'master.key');
  try {
    writeFileSync(path, `${randomBytes(keyBytes).toString('hex')}\n`, { mode: 0o600, flag: 'wx' });
  } catch (error) {
    if (codeOf(error) !== 'EEXIST') throw error;
  }
  if ((statSync(path).mode & 0o077) !== 0) chmodSync(path, 0o600);
  const text = readFileSync(path, 'utf8').trim();
  if (!/^[0-9a-f]{64}$/i.test(text)) throw new PlainError(`The file ${path} holds no master key.`);
  return new MasterKey(Buffer.from(text, 'hex'));
}

function bytesOf(about: string | Uint8Array): Uint8Array {
  return typeof about === 'string' ? Buffer.from(about) : about;
}
