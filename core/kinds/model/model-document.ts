import type { Document } from '@gltf-transform/core';
import type { LengthUnit } from '../comparing.ts';

/** The canonical form of a model: metres, Y up, as glTF 2.0 has them (section 3.4). */
export interface ModelDocument {
  document: Document;
  /** Files that the model names and the build lacks. */
  missing: string[];
  /** Unit and upward axis of the file, or that it says nothing of them. */
  units: string;
  /** What the file says beside the document, where that is known. */
  said?: Readonly<Record<string, unknown>>;
}

export const unitsNotSaid = 'not said: taken as metres, Y up';

/** In what lengths of two models are told. */
export function lengthUnitOf(...models: readonly { units: string }[]): LengthUnit {
  return models.some(({ units }) => units === unitsNotSaid) ? 'units' : 'metres';
}

/** The same as it stands behind a number. */
export function unitSymbol(units: string): 'm' | 'units' {
  return units === unitsNotSaid ? 'units' : 'm';
}
