import { setUpSchema, type SetUp } from '../../../contract/arrangements.ts';
import type { PartEntry } from '../engine/model-parts.ts';
import type { Said } from './look-address.ts';

export const plainSetUp: SetUp = { layers: [], props: [], leftOut: [], moved: [], variants: [] };

/** What an address says of how a model is set up; null where it says nothing, or nothing that can be understood. */
export function setUpFrom(said: Said): SetUp | null {
  const text = said.get('set');
  if (text === null) return null;
  try {
    return setUpSchema.parse(JSON.parse(text));
  } catch {
    return null;
  }
}

/** The same as an address has it: what is as usual takes no room. */
export function setUpWord(setUp: SetUp): string | undefined {
  const said = Object.entries(setUp).filter(([, list]) => list.length > 0);
  return said.length === 0 ? undefined : JSON.stringify(Object.fromEntries(said));
}

/** What a part is called in a set-up: with what it hangs on, so that it is known in the next build, too. */
export function partKey({ above, name }: Pick<PartEntry, 'above' | 'name'>): string {
  return [...above, name].join('/');
}
