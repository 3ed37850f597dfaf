import type { ListedAsset } from '../../contract/assets.ts';
import { bytesText, secondsText } from '../../core/figures.ts';

/** A column that people can choose. */
export interface Column {
  name: string;
  label: string;
  /** By what the server sorts. */
  sort: string;
  widthPixels: number;
  isNumber: boolean;
  text: (asset: ListedAsset) => string;
}

function figure(name: keyof ListedAsset['figures'], label: string): Column {
  return {
    name,
    label,
    sort: name,
    widthPixels: 92,
    isNumber: true,
    text: ({ figures }) => figures[name]?.toLocaleString('en') ?? '',
  };
}

export const columns: readonly Column[] = [
  { name: 'kind', label: 'Kind', sort: 'kind', widthPixels: 72, isNumber: false, text: ({ kind }) => kind },
  {
    name: 'format',
    label: 'Format',
    sort: 'kind',
    widthPixels: 84,
    isNumber: false,
    text: ({ format }) => format,
  },
  figure('triangles', 'Triangles'),
  {
    name: 'pixels',
    label: 'Pixels',
    sort: 'width',
    widthPixels: 104,
    isNumber: true,
    text: ({ figures: { width, height } }) => (width === undefined ? '' : `${width} × ${height ?? '?'}`),
  },
  {
    name: 'seconds',
    label: 'Seconds',
    sort: 'seconds',
    widthPixels: 84,
    isNumber: true,
    text: ({ figures: { seconds } }) => (seconds === undefined ? '' : secondsText(seconds)),
  },
  figure('bones', 'Bones'),
  figure('vertices', 'Vertices'),
  figure('placements', 'Placements'),
  figure('values', 'Values'),
  figure('lines', 'Lines'),
  {
    name: 'build',
    label: 'Build',
    sort: 'path',
    widthPixels: 76,
    isNumber: false,
    text: ({ build }) => build,
  },
  {
    name: 'first seen',
    label: 'First seen',
    sort: 'first seen',
    widthPixels: 92,
    isNumber: false,
    text: ({ firstSeen }) => firstSeen,
  },
  {
    name: 'change',
    label: 'Change',
    sort: 'first seen',
    widthPixels: 76,
    isNumber: false,
    text: ({ change }) => change ?? '',
  },
  {
    name: 'size',
    label: 'Size',
    sort: 'size',
    widthPixels: 84,
    isNumber: true,
    text: ({ size }) => bytesText(size),
  },
];

const usual = ['kind', 'triangles', 'pixels', 'seconds', 'first seen', 'size'];

/** The columns that an address names, in the order of the table; the usual ones where it names none. */
export function chosenColumns(named: string | null): Column[] {
  const wanted = named === null || named === '' ? usual : named.split(',');
  return columns.filter(({ name }) => wanted.includes(name));
}

/** What an address says when a column is switched on or off; nothing for the usual ones. */
export function withColumn(named: string | null, name: string): string {
  const now = chosenColumns(named).map((column) => column.name);
  const next = now.includes(name) ? now.filter((other) => other !== name) : [...now, name];
  const inOrder = columns.map((column) => column.name).filter((other) => next.includes(other));
  return inOrder.join(',') === usual.join(',') ? '' : inOrder.join(',');
}

/** Without its extension: as definitions write it. */
export function withoutExtension(path: string): string {
  return path.replace(/\.[^./]+$/, '');
}

const tickWidth = 34;
const pictureWidth = 40;
const leastNameWidth = 180;
const columnGap = 8;

/** As many of the columns as leave room for names; on a phone none. */
export function fittingColumns(columns: readonly Column[], width: number): readonly Column[] {
  let left = width - tickWidth - pictureWidth - leastNameWidth - 4 * columnGap;
  let count = 0;
  for (const { widthPixels } of columns) {
    left -= widthPixels + columnGap;
    if (left < 0) break;
    count++;
  }
  return columns.slice(0, count);
}

/** The columns of a row as a grid: what it is chosen with, its picture, its name, its figures. */
export function rowTemplate(columns: readonly Column[]): string {
  return `${tickWidth}px ${pictureWidth}px minmax(${leastNameWidth}px, 1fr) ${columns.map(({ widthPixels }) => `${widthPixels}px`).join(' ')}`;
}

/** A figure that stands by itself, with what it counts; one that has its unit already is whole. */
export function figureText(figure: string, label: string): string {
  return figure === '' || /[a-z]$/i.test(figure) ? figure : `${figure} ${label.toLowerCase()}`;
}
