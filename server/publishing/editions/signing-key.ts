import { createPrivateKey, createPublicKey, generateKeyPairSync, sign, type KeyObject } from 'node:crypto';
import { loadMasterKey } from '../../acquire/keyring/master-key.ts';
import { change, selectOne, type Queryable } from '../../platform/database/rows.ts';

/** What signs a title's editions: Ed25519 (RFC 8032). */
export interface SigningKey {
  sign(bytes: Uint8Array): Buffer;
  /** PEM, as OpenSSL reads it. */
  publicKey: string;
}

const about = (titleId: number): string => `signing key of title ${titleId}`;

/** The key of a title; made when it is first needed, and kept sealed with the master key. @throws PlainError */
export async function signingKeyOf(
  database: Queryable,
  dataRoot: string,
  titleId: number,
): Promise<SigningKey> {
  const master = loadMasterKey(dataRoot);
  const known = await readKey(database, titleId);
  if (known) return keyOf(createPrivateKey({ ...der, key: master.open(known, about(titleId)) }));
  const { privateKey, publicKey } = generateKeyPairSync('ed25519');
  const sealed = master.seal(privateKey.export(der), about(titleId));
  const pem = publicKey.export({ type: 'spki', format: 'pem' }).toString();
  // Whoever is first makes it.
  await change(database, 'INSERT IGNORE INTO signing_keys (title_id, sealed, public_key) VALUES (?, ?, ?)', [
    ...[titleId, sealed, pem],
  ]);
  const kept = await readKey(database, titleId);
  return keyOf(kept ? createPrivateKey({ ...der, key: master.open(kept, about(titleId)) }) : privateKey);
}

const der = { format: 'der', type: 'pkcs8' } as const;

async function readKey(database: Queryable, titleId: number): Promise<Buffer | null> {
  const row = await selectOne<{ sealed: Buffer }>(
    database,
    'SELECT sealed FROM signing_keys WHERE title_id = ?',
    [titleId],
  );
  return row?.sealed ?? null;
}

function keyOf(key: KeyObject): SigningKey {
  return {
    sign: (bytes) => sign(null, bytes, key),
    publicKey: createPublicKey(key).export({ type: 'spki', format: 'pem' }).toString(),
  };
}
