import type { ByteSource } from './byte-source.ts';

/** Logical sectors 0 to 15 of a disc, which the format leaves to others (ECMA-119 6.2.1, "System Area"). */
const systemAreaBytes = 16 * 2048;

/**
 * A container as nothing but what it was told apart as. bsdtar looks for itself at what it is given, and takes the reader
 * that bids most: a disc image may begin as something else (an mtree, a TAR, a shell archive, text that is to be decoded
 * first), and would be read as that. A disc's first 16 sectors are nothing of the format's own: they are blanked, and with
 * them every other signature. A cabinet begins with its signature and four zeros (Microsoft Cabinet Format, CFHEADER),
 * which no other reader takes for its own; `outside-programs.test.ts` tries them all.
 */
export function asOnly(format: 'iso' | 'cab', source: ByteSource): ByteSource {
  return format === 'cab' ? source : new BlankedSource(source, systemAreaBytes);
}

/** Another source, with zeros for its first bytes. */
class BlankedSource implements ByteSource {
  readonly size: number;
  readonly path = null;
  private readonly whole: ByteSource;
  private readonly blankBytes: number;

  constructor(whole: ByteSource, blankBytes: number) {
    this.whole = whole;
    this.size = whole.size;
    this.blankBytes = blankBytes;
  }

  read(offset: number, length: number): Uint8Array {
    const bytes = this.whole.read(offset, length);
    if (offset >= this.blankBytes) return bytes;
    const blanked = Uint8Array.from(bytes);
    blanked.fill(0, 0, this.blankBytes - offset);
    return blanked;
  }
}
