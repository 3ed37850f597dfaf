import { createHash, createPublicKey, verify } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { PlainError, codeOf } from '../../platform/plain-error.ts';
import { readSums, sumsName } from './site-folder.ts';

export const signatureName = 'SHA256SUMS.sig';
export const publicKeyName = 'signing-key.pem';
const unlisted = new Set([sumsName, signatureName, publicKeyName]);

export interface Verified {
  files: number;
  /** What is wrong, a line each. */
  problems: string[];
  /** SHA-256 of the public key: whoever published it says whether it is theirs. */
  keySum: string;
}

/**
 * Checks an edition: its list of sums is signed by the key beside it, every file is as listed, and nothing lies there beside.
 * @throws PlainError where there is no edition
 */
export async function verifyEdition(folder: string): Promise<Verified> {
  const read = async (name: string): Promise<Buffer> => {
    try {
      return await readFile(join(folder, name));
    } catch (error) {
      if (codeOf(error) === 'ENOENT')
        throw new PlainError(`${folder} holds no signed edition: it has no ${name}.`);
      throw error;
    }
  };
  const [sums, signature, pem] = [await read(sumsName), await read(signatureName), await read(publicKeyName)];
  const problems: string[] = [];
  const key = publicKeyOf(pem, folder);
  if (!verify(null, sums, key, signature))
    problems.push(`${sumsName} was changed after it was signed, or by another key.`);
  const listed = await readSums(folder);
  for (const [path, sum] of listed) {
    // A list that was written by somebody else may lead out of the folder.
    if (path.startsWith('/') || path.split('/').includes('..')) {
      problems.push(`${path} lies outside of the edition.`);
      continue;
    }
    const found = await sumOfFile(join(folder, path));
    if (found === null) problems.push(`${path} is missing.`);
    else if (found !== sum) problems.push(`${path} was changed.`);
  }
  for (const path of await filesBelow(folder))
    if (!listed.has(path) && !unlisted.has(path)) problems.push(`${path} is not part of the edition.`);
  return { files: listed.size, problems, keySum: createHash('sha256').update(pem).digest('hex') };
}

function publicKeyOf(pem: Buffer, folder: string): ReturnType<typeof createPublicKey> {
  try {
    const key = createPublicKey(pem);
    if (key.asymmetricKeyType === 'ed25519') return key;
  } catch {
    // Told below: what it is does not matter.
  }
  throw new PlainError(`${join(folder, publicKeyName)} is no Ed25519 key.`);
}

async function sumOfFile(file: string): Promise<string | null> {
  const hash = createHash('sha256');
  try {
    await pipeline(createReadStream(file), hash);
  } catch (error) {
    if (['ENOENT', 'EISDIR', 'ENOTDIR'].includes(codeOf(error) ?? '')) return null;
    throw error;
  }
  return hash.digest('hex');
}

async function filesBelow(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  return entries
    .filter((entry) => !entry.isDirectory())
    .map((entry) => join(entry.parentPath, entry.name).slice(folder.replace(/\/+$/, '').length + 1));
}
