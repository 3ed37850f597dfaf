import type { LikenessItem } from '../core/findings/likeness/pair.ts';
import type { Kind } from '../contract/kinds.ts';
import { modelSignatureParts } from '../core/kinds/model/signature.ts';
import { pictureSignatureParts } from '../core/kinds/picture/signature.ts';
import { soundSignatureParts } from '../core/kinds/sound/signature.ts';
import { textSignatureParts } from '../core/kinds/text/signature.ts';

/** What went and what is new, of which some is the same thing renamed and changed; `truth` says which. */
export interface LikenessSet {
  gone: LikenessItem[];
  fresh: LikenessItem[];
  /** Old paths by new ones. */
  truth: Map<string, string>;
}

const kinds: readonly Kind[] = ['picture', 'picture', 'model', 'sound', 'text'];
const lengths: Partial<Record<Kind, number>> = {
  picture: pictureSignatureParts.end,
  model: modelSignatureParts.end,
  sound: soundSignatureParts.end,
  text: textSignatureParts.end,
};
/** Where bytes are hashes: these are the same, or another one. */
const hashedOf: Partial<Record<Kind, readonly [number, number]>> = {
  model: [modelSignatureParts.corners, modelSignatureParts.end],
  text: [textSignatureParts.pairs, textSignatureParts.end],
};
const bitBytes = 8;
const words =
  'heron lantern ferry reed jetty otter bell stage marsh boat lamp plank rope tide fog crane perch mallow ember skiff gate wheel sail oar net buoy'.split(
    ' ',
  );
const endings: Partial<Record<Kind, string>> = { picture: 'png', model: 'glb', sound: 'wav', text: 'json' };

/**
 * A seeded set: families of things that look somewhat alike, as variants do; six in ten of what went is there again under a
 * name of which a part, or all but the number, is another one, mostly in another folder, and somewhat changed.
 */
export function likenessSet(count: number): LikenessSet {
  let state = 0x2545f491;
  const random = (): number => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
  const pick = <Item>(items: readonly Item[]): Item => items[Math.floor(random() * items.length)] as Item;
  const families = new Map<string, Uint8Array>();
  /** Bits that flip, and how far bytes are off. */
  const blurred = (of: Uint8Array, kind: Kind, flips: number, steps: number): Uint8Array => {
    const result = new Uint8Array(of);
    const hasBits = kind === 'picture' || kind === 'text';
    for (let flip = 0; hasBits && flip < flips; flip++) {
      const bit = Math.floor(random() * bitBytes * 8);
      result[bit >> 3] = (result[bit >> 3] ?? 0) ^ (1 << (bit & 7));
    }
    const [hashed, end] = hashedOf[kind] ?? [0, 0];
    for (let at = hashed; at < end; at++) if (random() * 40 < flips * 1.4) result[at] = random() * 256;
    for (let at = hasBits ? bitBytes : 0; at < result.length; at++) {
      if (at >= hashed && at < end) continue;
      result[at] = Math.max(0, Math.min(255, (result[at] ?? 0) + Math.round((random() * 2 - 1) * steps)));
    }
    return result;
  };
  const signature = (kind: Kind, family: string): Uint8Array => {
    let base = families.get(family);
    if (!base)
      families.set(family, (base = Uint8Array.from({ length: lengths[kind] ?? 8 }, () => random() * 256)));
    return blurred(base, kind, 14, 40);
  };
  const make = (number: number, folder: string): LikenessItem & { parts: string[] } => {
    const kind = pick(kinds);
    const parts = [pick(words), pick(words), String(number)];
    return {
      path: `${folder}/${pick(words)}/${parts.join('_')}.${endings[kind] ?? 'bin'}`,
      kind,
      size: Math.floor(1000 + random() * 100_000),
      signature: signature(kind, `${kind} ${parts[0] ?? ''} ${Math.floor(random() * 400)}`),
      parts,
    };
  };
  const gone: LikenessItem[] = [];
  const fresh: LikenessItem[] = [];
  const truth = new Map<string, string>();
  for (let number = 0; number < count; number++) {
    const old = make(number, 'data/old');
    gone.push(old);
    if (random() >= 0.6) {
      fresh.push(make(number + count, 'data/new'));
      continue;
    }
    const renamed = [...old.parts];
    renamed[Math.floor(random() * 2)] = pick(words);
    // A number of its own for some of them: nothing of the name but a word is left.
    if (random() < 0.3) renamed[2] = String(number + 2 * count);
    const folder = random() < 0.7 ? `data/new/${pick(words)}` : old.path.slice(0, old.path.lastIndexOf('/'));
    const path = `${folder}/${renamed.join('_')}.${endings[old.kind] ?? 'bin'}`;
    if (truth.has(path)) continue;
    truth.set(path, old.path);
    fresh.push({
      path,
      kind: old.kind,
      size: Math.floor((old.size ?? 0) * (0.8 + random() * 0.4)),
      signature: old.signature && blurred(old.signature, old.kind, 4, 6),
    });
  }
  return { gone, fresh, truth };
}
