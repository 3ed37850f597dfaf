import { quayThings } from './quay-things.ts';
import { sceneOf } from './scene-parts.ts';
import { Thing, type Makers } from './thing.ts';
import { vessels } from './vessels.ts';

const makers: Makers = { ...vessels, ...quayThings };

export const cargo: readonly string[] = Object.keys(makers);

/** One thing of those that lie on quays and in boats, at a level of detail. @throws RangeError for a name that is none */
export function cargoModel(name: string, level: number): Promise<Uint8Array> {
  const make = makers[name];
  if (!make) throw new RangeError(`cargoModel: there is no ${name}`);
  return sceneOf(name, make(new Thing(level)).parts);
}
