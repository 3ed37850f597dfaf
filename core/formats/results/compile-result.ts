import type { Kind } from '../../../contract/kinds.ts';
import type { Placement } from '../../../contract/facts.ts';
import type { SheetResult } from '../../../contract/format-sheets.ts';
import type { Picture } from '../../kinds/picture/picture.ts';
import { SheetError } from '../language/sheet-error.ts';
import type { Struct } from '../language/values.ts';
import {
  compileEntries,
  compileMentions,
  compilePlacements,
  compileTable,
  type SheetEntry,
} from './lists.ts';
import { compileModel, type SheetModel } from './model.ts';
import { compilePicture } from './picture.ts';
import { compileSound, type SheetSound } from './sound.ts';

type Make<Made> = ((root: Struct) => Made) | null;

/** What a sheet makes of a file, ready to be made. */
export interface CompiledResult {
  /** Null where only fields are read; a container is of none of the kinds that are looked at. */
  kind: Kind | null;
  picture: Make<Picture>;
  sound: Make<SheetSound>;
  model: Make<SheetModel>;
  entries: Make<SheetEntry[]>;
  /** As CSV. */
  table: Make<Uint8Array>;
  placements: Make<Placement[]>;
  mentions: Make<string[]>;
}

const kinds = {
  picture: 'picture',
  sound: 'sound',
  model: 'model',
  table: 'text',
  placements: 'map',
  entries: 'other',
} as const satisfies Record<string, Kind>;

/** @throws SheetError */
export function compileResult(result: SheetResult): CompiledResult {
  const made = Object.keys(kinds).filter((name) => result[name as keyof typeof kinds] !== undefined);
  if (made.length > 1)
    throw new SheetError(`one thing comes out of a file, and here are ${made.join(' and ')}`, null, 'result');
  const [only] = made;
  const part = <Rule, Made>(
    name: string,
    rule: Rule | undefined,
    compile: (rule: Rule) => (root: Struct) => Made,
  ): Make<Made> => {
    if (rule === undefined) return null;
    try {
      const make = compile(rule);
      return (root) => {
        try {
          return make(root);
        } catch (error) {
          if (!(error instanceof SheetError)) throw error;
          throw new SheetError(error.message, error.at, error.where === '' ? `result.${name}` : error.where);
        }
      };
    } catch (error) {
      if (!(error instanceof SheetError)) throw error;
      throw new SheetError(error.message, null, name);
    }
  };
  return {
    kind: only === undefined ? null : kinds[only as keyof typeof kinds],
    picture: part('picture', result.picture, compilePicture),
    sound: part('sound', result.sound, compileSound),
    model: part('model', result.model, compileModel),
    entries: part('entries', result.entries, compileEntries),
    table: part('table', result.table, compileTable),
    placements: part('placements', result.placements, compilePlacements),
    mentions: part('mentions', result.mentions, compileMentions),
  };
}
