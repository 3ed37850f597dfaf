import type { SheetExpression, SheetStep } from '../../../contract/format-sheets.ts';
import { compileExpression, shown, wholeNumber, type Compute } from '../language/expression.ts';
import { SheetError } from '../language/sheet-error.ts';
import type { Budget } from '../language/budget.ts';
import type { Struct, Value } from '../language/values.ts';
import { bitPlanes, delta, joinPlanes, swap, xor } from './rearrange.ts';
import { inflated } from './inflated.ts';
import {
  deflated,
  differences,
  gzipped,
  lz4Letters,
  lzssLetters,
  partPlanes,
  zlibbed,
  zstdRaw,
  type PackAgain,
} from './pack-again.ts';
import { lz4Block, lz4Frame } from './lz4.ts';
import { lzss } from './lzss.ts';
import { runs } from './runs.ts';
import { zstd } from './zstd.ts';

/** Unpacks bytes, with what it needs of the fields around. @throws SheetError */
export type Unpack = (bytes: Uint8Array, scope: Struct) => Uint8Array;

/** What a step is given. */
export interface Parameters {
  /** A whole number. @throws SheetError where it is none, or beyond these limits */
  whole: (name: string, usual?: number, least?: number, most?: number) => number;
  /** One of some words. */
  word: <Word extends string>(name: string, words: readonly Word[], usual: Word) => Word;
  has: (name: string) => boolean;
  value: (name: string) => Value;
  budget: Budget;
  scope: Struct;
}

interface Packing {
  /** What completion tells of it. */
  says: string;
  parameters: readonly string[];
  unpack: (bytes: Uint8Array, parameters: Parameters) => Uint8Array;
  /** The other way round; missing where that is not known here. */
  pack?: PackAgain;
}

/** Ways in which bytes are packed or put otherwise, by name. */
export const packings: Readonly<Record<string, Packing>> = {
  deflate: {
    says: 'DEFLATE without a header (RFC 1951)',
    parameters: ['size'],
    unpack: (bytes, parameters) => inflated(bytes, 'deflate', parameters),
    pack: deflated,
  },
  zlib: {
    says: 'zlib (RFC 1950)',
    parameters: ['size'],
    unpack: (bytes, parameters) => inflated(bytes, 'zlib', parameters),
    pack: zlibbed,
  },
  gzip: {
    says: 'gzip (RFC 1952)',
    parameters: ['size'],
    unpack: (bytes, parameters) => inflated(bytes, 'gzip', parameters),
    pack: gzipped,
  },
  zstd: { says: 'Zstandard (RFC 8878)', parameters: ['size'], unpack: zstd, pack: zstdRaw },
  lz4: { says: 'LZ4, one block', parameters: ['size'], unpack: lz4Block, pack: lz4Letters },
  lz4Frame: { says: 'LZ4 frame', parameters: ['size'], unpack: lz4Frame },
  lzss: {
    says: 'LZSS: flags, letters, and places in a window',
    parameters: [
      ...['size', 'window', 'lengthBits', 'minimum', 'flagOrder', 'literal', 'place', 'begin', 'fill'],
      'layout',
    ],
    unpack: lzss,
    pack: lzssLetters,
  },
  runs: { says: 'run lengths', parameters: ['coding', 'unit', 'escape', 'size'], unpack: runs },
  xor: { says: 'exclusive or with a key', parameters: ['key', 'begin', 'step'], unpack: xor, pack: xor },
  swap: { says: 'bytes of each number the other way round', parameters: ['bytes'], unpack: swap, pack: swap },
  planes: {
    says: 'first bytes of all things, then second bytes of all, as they were: joined again',
    parameters: ['bytes'],
    unpack: joinPlanes,
    pack: partPlanes,
  },
  delta: {
    says: 'differences, added up again',
    parameters: ['bytes', 'stride', 'endian', 'kind'],
    unpack: delta,
    pack: differences,
  },
  bitPlanes: {
    says: 'bits of pixels in planes: a byte a pixel',
    parameters: ['planes', 'width', 'arrangement', 'order'],
    unpack: bitPlanes,
  },
};

/** @throws SheetError where a step or a parameter is not known */
export function compilePackings(steps: readonly SheetStep[]): Unpack {
  const compiled = steps.map((step) => compileStep(step, ({ unpack }) => unpack));
  return (bytes, scope) => compiled.reduce((packed, step) => step(packed, scope), bytes);
}

/** The other way round. @throws SheetError that names the step that cannot be turned round */
export function compilePackers(steps: readonly SheetStep[]): Unpack {
  const compiled = steps.map((step) => compileStep(step, ({ pack }) => pack)).reverse();
  return (bytes, scope) => compiled.reduce((unpacked, step) => step(unpacked, scope), bytes);
}

function compileStep(step: SheetStep, wayOf: (packing: Packing) => PackAgain | undefined): Unpack {
  const [name = '', given = {}] = typeof step === 'string' ? [step, {}] : (Object.entries(step)[0] ?? []);
  const packing = Object.hasOwn(packings, name) ? packings[name] : undefined;
  if (!packing)
    throw new SheetError(`there is no packing ${name}: there are ${Object.keys(packings).join(', ')}`);
  const way = wayOf(packing);
  if (!way) throw new SheetError(`${name} cannot be turned round: nothing here packs in this way`);
  const values = new Map<string, Compute>();
  for (const [parameter, value] of Object.entries(given)) {
    if (!packing.parameters.includes(parameter))
      throw new SheetError(`${name} has no ${parameter}: it has ${packing.parameters.join(', ')}`);
    values.set(
      parameter,
      value === keyringWord && parameter === 'key' ? keyOfKeyring : parameterValue(value),
    );
  }
  return (bytes, scope) => {
    const { budget } = scope.reading;
    budget.step(1 + (bytes.length >> 4));
    try {
      return way(bytes, parametersOf(values, scope));
    } catch (error) {
      if (!(error instanceof SheetError)) throw error;
      throw new SheetError(`${name}: ${error.message}`, error.at, error.where);
    }
  };
}

/** What stands in a sheet for a key that nobody writes there. */
export const keyringWord = 'keyring';

const keyOfKeyring: Compute = ({ reading: { key } }) => {
  if (!key) throw new SheetError('it needs a key of the keyring, and there is none here');
  return key;
};

function parameterValue(value: SheetExpression | number[]): Compute {
  if (!Array.isArray(value)) return compileExpression(value);
  const bytes = Uint8Array.from(value);
  return () => bytes;
}

function parametersOf(values: ReadonlyMap<string, Compute>, scope: Struct): Parameters {
  const value = (name: string): Value => values.get(name)?.(scope) ?? null;
  return {
    budget: scope.reading.budget,
    scope,
    value,
    has: (name) => values.has(name),
    whole(name, usual, least = 0, most = Number.MAX_SAFE_INTEGER) {
      if (!values.has(name)) {
        if (usual === undefined) throw new SheetError(`it needs ${name}`);
        return usual;
      }
      const number = wholeNumber(value(name), name);
      if (number < least || number > most)
        throw new SheetError(`${name} ${number} cannot be: it is ${least} to ${most}`);
      return number;
    },
    word(name, words, usual) {
      if (!values.has(name)) return usual;
      const given = value(name);
      const word = words.find((candidate) => candidate === given);
      if (word === undefined)
        throw new SheetError(`${name} ${shown(given)} cannot be: there are ${words.join(', ')}`);
      return word;
    },
  };
}
