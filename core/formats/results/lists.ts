import type {
  EntriesResult,
  PlacementsResult,
  SheetResult,
  TableResult,
} from '../../../contract/format-sheets.ts';
import type { Placement } from '../../../contract/facts.ts';
import { ofEuler, unit, yUp, type Quaternion } from '../../kinds/map/rotation.ts';
import { compileExpression, wholeNumber } from '../language/expression.ts';
import { bytesOf, numberOf, textOf } from '../language/conversions.ts';
import type { Budget } from '../language/budget.ts';
import { SheetError } from '../language/sheet-error.ts';
import { isNumbers, List, type Struct, type Value } from '../language/values.ts';
import { compilePackings } from '../packings/packings.ts';
import { compileItems, compileNumbers, optional } from './items.ts';

/** A file within a container. */
export interface SheetEntry {
  name: string;
  /** Where its packed bytes lie in the file; null where they do not lie there as they are. */
  offset: number | null;
  packedSize: number;
  /** Unpacked. @throws SheetError */
  bytes: () => Uint8Array;
  /** What sees the fields that it was found by. */
  scope: Struct;
  /** What reading the container may take: whoever unpacks entries one by one renews it for each. */
  budget: Budget;
}

/** More are no container any more. */
const mostEntries = 2_000_000;

export function compileEntries(result: EntriesResult): (root: Struct) => SheetEntry[] {
  const items = compileItems(result);
  const name = compileExpression(result.name);
  const [data, offset, size] = [optional(result.data), optional(result.offset), optional(result.size)];
  if (!data && (!offset || !size))
    throw new SheetError('entries need data, or offset and size', null, 'entries');
  const unpack = result.unpack ? compilePackings(result.unpack) : null;
  return (root) => {
    const entries: SheetEntry[] = [];
    for (const scope of items(root)) {
      if (entries.length === mostEntries)
        throw new SheetError(`it has more than ${mostEntries.toLocaleString('en')} entries`);
      const called = textOf(name(scope));
      scope.reading.budget.allocate(160 + called.length * 2);
      const { bytes: file } = scope.reading.file;
      let packed: Uint8Array;
      if (data) packed = bytesOf(data(scope));
      else {
        const begin = wholeNumber(offset?.(scope) ?? null, 'the place of an entry');
        const length = wholeNumber(size?.(scope) ?? null, 'the size of an entry');
        if (begin + length > file.length)
          throw new SheetError(
            `“${called}” should lie at byte ${begin.toLocaleString('en')}, ${length.toLocaleString('en')} bytes long, and the file has ${file.length.toLocaleString('en')}`,
            Math.min(begin, file.length),
          );
        packed = file.subarray(begin, begin + length);
      }
      const isInFile = packed.buffer === file.buffer;
      entries.push({
        name: called,
        offset: isInFile ? packed.byteOffset - file.byteOffset : null,
        packedSize: packed.length,
        bytes: () => (unpack ? unpack(packed, scope) : packed),
        scope,
        budget: scope.reading.budget,
      });
    }
    return entries;
  };
}

/** A table as CSV (RFC 4180): what has rows and columns is compared and searched as such. */
export function compileTable(result: TableResult): (root: Struct) => Uint8Array {
  const items = compileItems(result);
  const columns = Object.entries(result.columns).map(([name, expression]) => ({
    name,
    value: compileExpression(expression),
  }));
  return (root) => {
    const lines = [columns.map(({ name }) => cell(name)).join(',')];
    for (const scope of items(root)) {
      const line = columns.map(({ value }) => cell(cellText(value(scope)))).join(',');
      scope.reading.budget.allocate(16 + line.length * 2);
      lines.push(line);
    }
    return new TextEncoder().encode(`${lines.join('\r\n')}\r\n`);
  };
}

function cellText(value: Value): string {
  if (value === null) return '';
  if (isNumbers(value)) return [...value].map(String).join(' ');
  if (value instanceof List) return value.items.map(cellText).join(' ');
  if (typeof value === 'object') throw new SheetError('a cell is a number or a text, and no structure');
  return String(value);
}

function cell(text: string): string {
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

export function compilePlacements(result: PlacementsResult): (root: Struct) => Placement[] {
  const items = compileItems(result);
  const model = compileExpression(result.model);
  const [name, group] = [optional(result.name), optional(result.class)];
  const position = compileNumbers(result.position);
  const [rotation, scale] = [compileNumbers(result.rotation), compileNumbers(result.scale)];
  const metres = optional(result.metresPerUnit);
  const isUp = result.up === 'Z';
  return (root) => {
    const factor = metres ? numberOf(metres(root)) : 1;
    const placements: Placement[] = [];
    for (const scope of items(root)) {
      scope.reading.budget.allocate(400);
      const [x = 0, y = 0, z = 0] = three(position?.(scope), 'a position');
      const turn = rotation?.(scope) ?? null;
      const size = scale?.(scope) ?? null;
      const turned: Quaternion =
        turn === null
          ? [0, 0, 0, 1]
          : turn.length === 4
            ? unit([turn[0] ?? 0, turn[1] ?? 0, turn[2] ?? 0, turn[3] ?? 1])
            : ofEuler(three(turn, 'a rotation'), 'XYZ');
      const [sx, sy, sz] = size === null ? [1, 1, 1] : size.length === 1 ? [size[0], size[0], size[0]] : size;
      const at = isUp ? yUp([x, y, z]) : [x, y, z];
      placements.push({
        id: String(placements.length),
        model: textOf(model(scope)),
        class: group ? textOf(group(scope)) : 'object',
        name: name ? textOf(name(scope)) : '',
        locator: '',
        position: [(at[0] ?? 0) * factor, (at[1] ?? 0) * factor, (at[2] ?? 0) * factor],
        rotation: isUp ? [...yUp([turned[0], turned[1], turned[2]]), turned[3]] : turned,
        scale: isUp ? [sx ?? 1, sz ?? 1, sy ?? 1] : [sx ?? 1, sy ?? 1, sz ?? 1],
      });
    }
    return placements;
  };
}

function three(numbers: ArrayLike<number> | null | undefined, what: string): [number, number, number] {
  if (numbers?.length !== 3) throw new SheetError(`${what} has three numbers`);
  return [numbers[0] as number, numbers[1] as number, numbers[2] as number];
}

/** What a file says of others. */
export function compileMentions(mentions: NonNullable<SheetResult['mentions']>): (root: Struct) => string[] {
  const rules = mentions.map((rule) => ({
    items: compileItems(rule),
    path: compileExpression(rule.path),
  }));
  return (root) => {
    const paths: string[] = [];
    for (const { items, path } of rules)
      for (const scope of items(root)) {
        const text = textOf(path(scope));
        scope.reading.budget.allocate(32 + text.length * 2);
        if (text !== '') paths.push(text);
      }
    return paths;
  };
}
