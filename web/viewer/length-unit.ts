import type { Facts } from '../../contract/facts.ts';
import type { LengthUnit } from '../../core/kinds/comparing.ts';
import { lengthUnitOf } from '../../core/kinds/model/model-document.ts';

/** In what lengths of models are shown, by what their files say. */
export function unitOfFacts(...all: readonly (Facts | null | undefined)[]): LengthUnit {
  return lengthUnitOf(...all.flatMap((facts) => (facts?.kind === 'model' ? [facts] : [])));
}
