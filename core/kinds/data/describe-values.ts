import { plural } from '../../figures.ts';
import { named } from '../comparing.ts';
import type { DataChange } from './data-change.ts';

/** What the parts of a text are called. */
export interface PartWords {
  /** An item of a list: `row`, `element`, `item`. */
  item: string;
  /** What has a name: `key`, `column`, `element`. */
  key: string;
}

const mostListed = 3;
const longestListed = 50;

/** Differences of data in words, the most telling first; each sort of them once. */
export function describeChanges(changes: readonly DataChange[], words: PartWords): string[] {
  const some = (status: DataChange['status']): DataChange[] =>
    changes.filter((change) => change.status === status);
  return [
    ...describeRenamed(some('renamed'), words),
    ...describeChanged(some('changed')),
    ...describeThere(some('added'), 'new', words),
    ...describeThere(some('gone'), 'gone', words),
    ...describeMoved(some('moved'), words),
  ];
}

function describeRenamed(renamed: readonly DataChange[], { key }: PartWords): string[] {
  if (renamed.length > mostListed) return [`${plural(renamed.length, key)} renamed`];
  return renamed.map(({ old, new: now, values, field }) => {
    const what = field === 'row' || field === 'namespace' ? `${field} ` : '';
    return `${what}${named(old)} renamed to ${named(now)}${values > 1 ? ` in ${values.toLocaleString('en')} places` : ''}`;
  });
}

function describeChanged(changed: readonly DataChange[]): string[] {
  const one = ({ key, old, new: now }: DataChange): string =>
    `${key === '' ? 'the value' : named(key)} ${short(old)} → ${short(now)}`;
  const [first] = changed;
  if (!first) return [];
  if (changed.length <= mostListed && changed.every((change) => one(change).length <= longestListed * 2))
    return changed.map(one);
  const isOneField = changed.every(({ field }) => field === first.field) && first.field !== first.key;
  const count = changed.length.toLocaleString('en');
  return [
    isOneField
      ? `${named(first.field)} changed in ${count} places, the first is ${one(first)}`
      : `${plural(changed.length, 'value')} changed, the first is ${one(first)}`,
  ];
}

function describeThere(changes: readonly DataChange[], word: string, { item }: PartWords): string[] {
  const columns = changes.filter(({ field }) => field === 'column');
  const others = changes.filter(({ field }) => field !== 'column');
  const parts: string[] = [];
  if (columns.length > 0)
    parts.push(
      columns.length > mostListed
        ? `${plural(columns.length, 'column')} ${word}`
        : `${columns.length === 1 ? 'column' : 'columns'} ${columns.map(({ key }) => named(key)).join(' and ')} ${word}`,
    );
  const [first] = others;
  if (!first) return parts;
  const areItems = others.every(({ key, field }) => field === 'row' || key.endsWith(']'));
  const where = first.place === 'front' ? ' at the front' : first.place === 'end' ? ' at the end' : '';
  const isInOnePlace = others.every(({ place }) => place === first.place);
  if (others.length > 1)
    return [
      ...parts,
      `${plural(others.length, areItems ? item : 'value')} ${word}${isInOnePlace && areItems ? where : ''}`,
    ];
  const value = word === 'new' ? first.new : first.old;
  const name = first.key === '' ? 'the value' : /^\[.*\]$/.test(first.key) ? item : named(first.key);
  // A long list or object says less than its name.
  const isPlain = value !== '' && (!/^[[{]/.test(value) || (!areItems && value.length <= 40));
  return [
    ...parts,
    `${first.field === 'row' ? 'row ' : ''}${name} ${word}${areItems ? where : ''}${isPlain ? `: ${short(value)}` : ''}`,
  ];
}

function describeMoved(moved: readonly DataChange[], { item }: PartWords): string[] {
  return moved.slice(0, mostListed).map(({ field, key, new: count }) => {
    if (field === 'columns' || field === 'elements') return `${field} in another order`;
    const where = key === '' ? '' : ` of ${named(key)}`;
    const [number = '', all = ''] = count.split(' of ');
    return number === '1' || Number(number) < Number(all) / 2
      ? `${plural(Number(number), item)}${where} moved`
      : `${item}s${where} in another order`;
  });
}

function short(value: string): string {
  return value.length > longestListed ? `${value.slice(0, longestListed - 1)}…` : value;
}
