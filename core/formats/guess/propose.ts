import { packedOf, stringsOf, strideOf } from './body.ts';
import { constantsOf, orderOf, wordsOf } from './header.ts';
import { numbersOf, type GuessedList } from './numbers.ts';
import type { Proposal, Sample } from './proposal.ts';
import { relationsOf } from './relations.ts';

/** More files say little more. */
export const mostSamples = 32;

/**
 * What the bytes of some files of one format say of it, the surest first: what they begin with, their byte order, numbers that are
 * sizes, counts or offsets, lists of things of one size and what these look like, texts, what is packed.
 */
export function proposalsFor(given: readonly Sample[]): Proposal[] {
  const samples = given.filter(({ bytes }) => bytes.length > 0).slice(0, mostSamples);
  const [first] = samples;
  if (!first || isOneFile(samples)) return [];
  const begins = constantsOf(samples);
  const constants = [...begins, ...wordsOf(samples, Math.max(0, ...begins.map(endOf)))];
  const relations = samples.length >= 2 ? relationsOf(samples, Math.max(0, ...begins.map(endOf))) : [];
  const order = orderOf(relations);
  const agreeing = relations.filter(
    ({ isLittle }) => order[0]?.isLittle === undefined || isLittle === order[0].isLittle,
  );
  const isLittle = order[0]?.isLittle ?? true;
  const lists = listsOf(first, agreeing, isLittle);
  const counts = lists.map(({ count }) => count);
  const headerEnd = Math.max(0, ...constants.map(endOf), ...agreeing.map(endOf));
  const largest = samples.reduce((a, b) => (b.bytes.length > a.bytes.length ? b : a));
  const strides = lists.length === 0 ? strideOf(largest, headerEnd) : [];
  if (lists.length === 0)
    for (const { stride = 1 } of strides)
      lists.push({ at: headerEnd, count: Math.floor((first.size - headerEnd) / stride), stride, isLittle });
  const proposals = [
    ...[...constants, ...order, ...agreeing, ...strides],
    ...lists.flatMap((list) => numbersOf(first, list, counts)),
    ...stringsOf(first),
    ...packedOf(first),
  ];
  return proposals.sort((a, b) => b.score - a.score || a.at - b.at);
}

/** Copies of one file say no more than one, and seem to agree in everything. */
function isOneFile([first, ...others]: readonly Sample[]): boolean {
  return (
    others.length > 0 &&
    others.every(
      ({ bytes, size }) => size === first?.size && bytes.every((byte, at) => byte === first.bytes[at]),
    )
  );
}

function endOf({ at, bytes }: Proposal): number {
  return at + bytes;
}

/** Where the lists of the first file lie, as far as their counts and places are known. */
function listsOf({ bytes }: Sample, relations: readonly Proposal[], isLittle: boolean): GuessedList[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const valueOf = ({ at, bytes: width }: Proposal): number =>
    width === 4 ? view.getUint32(at, isLittle) : view.getUint16(at, isLittle);
  const placeAt = (at: number): number | null =>
    at + 4 <= bytes.length ? view.getUint32(at, isLittle) : null;
  let next: number | null = null;
  return relations.flatMap((proposal) => {
    const { kind, stride = 0, begins = null } = proposal;
    if (kind !== 'count') return [];
    const count = valueOf(proposal);
    const at = begins === null ? next : 'byte' in begins ? begins.byte : placeAt(begins.saidAt);
    if (at === null) return [];
    next = at + count * stride;
    return [{ at, count, stride, isLittle }];
  });
}

/**
 * Fields of a sheet’s root by the proposals that are taken: what lies between them is skipped.
 * @returns lines of YAML, indented by two spaces
 */
export function fieldsOf(taken: readonly Proposal[]): string {
  const fields = taken
    .filter(
      (proposal) =>
        proposal.field !== null && ['constant', 'size', 'count', 'offset', 'pixels'].includes(proposal.kind),
    )
    .sort((a, b) => a.at - b.at);
  const names = new Map<string, number>();
  const lines: string[] = [];
  let at = 0;
  for (const { at: begin, bytes, field, says } of fields) {
    if (!field || begin < at) continue;
    if (begin > at) lines.push(`  _unknown${at}: bytes(${begin - at})`);
    const number = (names.get(field.name) ?? 0) + 1;
    names.set(field.name, number);
    lines.push(`  # ${says}`, `  ${field.name}${number > 1 ? number : ''}: ${field.type}`);
    at = begin + bytes;
  }
  return lines.join('\n');
}
