import type { Kind } from '../../../contract/kinds.ts';
import { minhashBytes } from '../../kinds/minhash.ts';
import { modelSignatureParts } from '../../kinds/model/signature.ts';
import { textSignatureParts } from '../../kinds/text/signature.ts';

/** Where signatures hold least hashes. */
const minhashesOf: Partial<Record<Kind, readonly number[]>> = {
  model: [modelSignatureParts.corners, modelSignatureParts.unwrapped],
  text: [textSignatureParts.pairs],
};

/** Bytes of a band: two sets that share nine tenths share at least one of eight bands, all but always. */
const bandBytes = 4;

/** Finds signatures whose least hashes share a band (locality-sensitive hashing after Indyk and Motwani, 1998). */
export class BandIndex {
  private readonly items = new Map<string, number[]>();
  private readonly begins: readonly number[];

  constructor(kind: Kind, signatures: readonly Uint8Array[]) {
    this.begins = minhashesOf[kind] ?? [];
    signatures.forEach((signature, item) => {
      for (const band of this.bandsOf(signature)) {
        const list = this.items.get(band);
        if (list) list.push(item);
        else this.items.set(band, [item]);
      }
    });
  }

  /** Calls for each that shares a band; of one that very many share for so many. */
  near(signature: Uint8Array, most: number, call: (item: number) => void): void {
    for (const band of this.bandsOf(signature))
      for (const item of (this.items.get(band) ?? []).slice(0, most)) call(item);
  }

  private bandsOf(signature: Uint8Array): string[] {
    const bands: string[] = [];
    for (const begin of this.begins)
      for (let at = begin; at < begin + minhashBytes; at += bandBytes) {
        const bytes = signature.subarray(at, at + bandBytes);
        if (bytes.some((byte) => byte !== 0)) bands.push(`${at} ${bytes.join(' ')}`);
      }
    return bands;
  }
}
