import type { Run } from '../../../core/formats/field-tree.ts';
import { offsetText } from '../../../core/formats/language/sheet-error.ts';

/** Where a run lies, and where in it a byte is. */
export function sidesOf({ begin, end }: Run, at: number): string {
  const bytes = end - begin;
  const size = `${bytes.toLocaleString('en')} ${bytes === 1 ? 'byte' : 'bytes'} at ${offsetText(begin)}`;
  return at > begin ? `${size}, byte ${(at - begin).toLocaleString('en')} of it` : size;
}

/** What the bytes from one on are as numbers, in both orders where these differ. */
export function valuesAt(bytes: Uint8Array, at: number): string {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const left = bytes.length - at;
  const parts: string[] = [];
  if (left >= 1) parts.push(`u8 ${view.getUint8(at)}`);
  const both = (name: string, read: (isLittle: boolean) => number): void => {
    const [little, big] = [numberText(read(true)), numberText(read(false))];
    parts.push(little === big ? `${name} ${little}` : `${name} ${little} / ${big}`);
  };
  if (left >= 2) both('u16', (isLittle) => view.getUint16(at, isLittle));
  if (left >= 4) {
    both('u32', (isLittle) => view.getUint32(at, isLittle));
    both('f32', (isLittle) => view.getFloat32(at, isLittle));
  }
  return parts.join(' · ');
}

function numberText(value: number): string {
  if (Number.isInteger(value)) return value.toLocaleString('en');
  return Number(value.toPrecision(5)).toString();
}
