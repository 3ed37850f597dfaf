import type { ModelResult } from '../../../contract/format-sheets.ts';
import { compileExpression, shown } from '../language/expression.ts';
import { numberOf, textOf } from '../language/conversions.ts';
import { SheetError } from '../language/sheet-error.ts';
import type { Struct } from '../language/values.ts';
import { compileItems, compileNumbers, optional, type ComputeNumbers } from './items.ts';
import { compileParts, type Part } from './model-parts.ts';

export interface SheetMaterial {
  name: string;
  /** Red, green, blue and alpha, 0 to 1, linear; null where the file says none. */
  colour: number[] | null;
  /** Files, by what they are for. */
  textures: Partial<Record<'map' | 'normalMap' | 'emissiveMap', string>>;
}

export interface SheetBone {
  name: string;
  /** Number of the bone that it hangs on; -1 for none. */
  parent: number;
  /** Sixteen numbers, column after column; or what they are made of. */
  place: { matrix: number[] } | { position: number[]; rotation: number[]; scale: number[] };
}

export interface SheetTrack {
  bone: number;
  property: 'position' | 'quaternion' | 'scale';
  times: number[];
  values: number[];
}

/** What a sheet makes of a model, in plain numbers. */
export interface SheetModel {
  parts: Part[];
  materials: SheetMaterial[];
  bones: SheetBone[] | null;
  /** Places of bones are of the whole model, and not within the bone that they hang on. */
  isInModelSpace: boolean;
  clips: { name: string; tracks: SheetTrack[] }[];
  /** Null where nobody knows. */
  metresPerUnit: number | null;
  up: ModelResult['up'];
}

/** Makes a model of fields. @throws SheetError */
export function compileModel(result: ModelResult): (root: Struct) => SheetModel {
  const parts = compileParts(result);
  const materials = compileMaterials(result.materials);
  const bones = compileBones(result.bones);
  const clips = compileClips(result.clips);
  const metres = optional(result.metresPerUnit);
  return (root) => {
    const scale = metres ? numberOf(metres(root)) : null;
    if (scale !== null && !(scale > 0 && scale < 1e9))
      throw new SheetError(`metresPerUnit ${scale} cannot be`);
    const made = [...parts(root)];
    const skeleton = bones(root);
    if (made.length === 0 && !skeleton?.length)
      throw new SheetError('it comes to a model without parts and bones');
    return {
      ...{ parts: made, materials: materials(root), bones: skeleton },
      ...{ isInModelSpace: result.bones?.space === 'model', metresPerUnit: scale, up: result.up },
      clips: clips(root, skeleton ?? []),
    };
  };
}

function compileMaterials(rule: ModelResult['materials']): (root: Struct) => SheetMaterial[] {
  if (!rule) return () => [];
  const items = compileItems(rule);
  const name = compileExpression(rule.name);
  const colour = compileNumbers(rule.colour);
  const roles = [
    ['map', optional(rule.texture)],
    ['normalMap', optional(rule.normalTexture)],
    ['emissiveMap', optional(rule.emissiveTexture)],
  ] as const;
  return (root) =>
    [...items(root)].map((scope) => {
      scope.reading.budget.allocate(2000);
      const numbers = colour?.(scope) ?? null;
      const textures: SheetMaterial['textures'] = {};
      for (const [role, file] of roles) {
        const path = file?.(scope) ?? null;
        if (path !== null && path !== '') textures[role] = textOf(path).replaceAll('\\', '/');
      }
      return { name: textOf(name(scope)), colour: numbers && Array.from(numbers), textures };
    });
}

function compileBones(rule: ModelResult['bones']): (root: Struct) => SheetBone[] | null {
  if (!rule) return () => null;
  const items = compileItems(rule);
  const [name, parent] = [compileExpression(rule.name), compileExpression(rule.parent)];
  const [position, rotation] = [compileNumbers(rule.position), compileNumbers(rule.rotation)];
  const [scale, matrix] = [compileNumbers(rule.scale), compileNumbers(rule.matrix)];
  return (root) => {
    const bones: SheetBone[] = [];
    const parents: (number | string)[] = [];
    for (const scope of items(root)) {
      scope.reading.budget.allocate(1000);
      const above = parent(scope);
      parents.push(typeof above === 'string' ? above : above === null ? -1 : numberOf(above));
      bones.push({
        name: textOf(name(scope)),
        parent: -1,
        place: matrix
          ? { matrix: numbersOf(matrix, scope, 16) }
          : {
              position: position ? numbersOf(position, scope, 3) : [0, 0, 0],
              rotation: rotation ? numbersOf(rotation, scope, 4) : [0, 0, 0, 1],
              scale: scale ? numbersOf(scale, scope, 3) : [1, 1, 1],
            },
      });
    }
    const found = parents.map((above, at) => parentOf(above, at, bones));
    // A chain that comes back would never end.
    found.forEach((above, at) => {
      let over = above;
      for (let steps = 0; over >= 0; steps++) {
        if (over === at || steps > bones.length)
          throw new SheetError(`bone ${at} hangs on itself, through others`);
        over = found[over] ?? -1;
      }
    });
    return bones.map((bone, at) => ({ ...bone, parent: found[at] ?? -1 }));
  };
}

function parentOf(parent: number | string, at: number, bones: readonly SheetBone[]): number {
  if (parent === '' || parent === -1) return -1;
  const over = typeof parent === 'string' ? bones.findIndex(({ name }) => name === parent) : parent;
  if (!Number.isInteger(over) || over < 0 || over >= bones.length || over === at)
    throw new SheetError(`bone ${at} hangs on ${parent}, which is no other bone`);
  return over;
}

function numbersOf(compute: ComputeNumbers, scope: Struct, count: number): number[] {
  const numbers = compute(scope);
  const all = numbers?.length === 1 && count === 3 ? [numbers[0], numbers[0], numbers[0]] : numbers;
  if (all?.length !== count)
    throw new SheetError(`${count} numbers were expected, and there are ${all?.length ?? 0}`);
  return Array.from(all, Number);
}

function compileClips(
  rule: ModelResult['clips'],
): (root: Struct, bones: readonly SheetBone[]) => SheetModel['clips'] {
  if (!rule) return () => [];
  const items = compileItems(rule);
  const name = compileExpression(rule.name);
  const tracks = compileItems(rule.tracks);
  const bone = compileExpression(rule.tracks.bone);
  const times = compileNumbers(rule.tracks.times);
  const rate = optional(rule.tracks.rate);
  const kinds = [
    ['position', compileNumbers(rule.tracks.positions), 3],
    ['quaternion', compileNumbers(rule.tracks.rotations), 4],
    ['scale', compileNumbers(rule.tracks.scales), 3],
  ] as const;
  return (root, bones) =>
    [...items(root)].map((clip) => {
      const made: SheetTrack[] = [];
      for (const scope of tracks(clip)) {
        const which = bone(scope);
        const target =
          typeof which === 'string'
            ? bones.findIndex((candidate) => candidate.name === which)
            : numberOf(which);
        if (!bones[target])
          throw new SheetError(`a track is of bone ${shown(which)}, and there is no such bone`);
        for (const [property, compute, size] of kinds) {
          const values = compute?.(scope) ?? null;
          if (!values || values.length === 0) continue;
          if (values.length % size !== 0)
            throw new SheetError(`a track has ${values.length} numbers, of ${size} each`);
          const keys = values.length / size;
          scope.reading.budget.allocate(values.length * 8);
          const own = times?.(scope) ?? null;
          const perSecond = rate ? numberOf(rate(scope)) : 30;
          if (own && own.length !== keys)
            throw new SheetError(`a track has ${keys} keys and ${own.length} times`);
          if (!(perSecond > 0)) throw new SheetError(`a rate of ${perSecond} cannot be`);
          made.push({
            ...{ bone: target, property, values: Array.from(values) },
            times: own ? Array.from(own) : Array.from({ length: keys }, (_, at) => at / perSecond),
          });
        }
      }
      return { name: textOf(name(clip)), tracks: made };
    });
}
