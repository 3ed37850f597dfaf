import * as z from 'zod';
import {
  channelSchema,
  saidTextureSchema,
  textureRoleSchema,
  type SaidTexture,
  type TextureChoice,
  type TextureRole,
  type TextureSets,
} from '../../../contract/texture-sets.ts';
import { spaceOfRole } from '../../../core/names/texture-sets.ts';
import type { MaterialEntry, WornTexture } from '../engine/worn-textures.ts';
import type { Said } from './look-address.ts';

/** A colour that is tried in a tint mask. */
export const tintSchema = z.object({
  material: z.string().max(500),
  colour: z.string().regex(/^#[0-9a-f]{6}$/),
  channel: channelSchema,
});
export type Tint = z.infer<typeof tintSchema>;

/** What is tried on materials, and not kept. */
export const triedSchema = z.object({
  textures: z.array(saidTextureSchema).max(5000).default([]),
  tints: z.array(tintSchema).max(500).default([]),
});
export type Tried = z.infer<typeof triedSchema>;

export function triedFrom(said: Said): Tried {
  try {
    return triedSchema.parse(JSON.parse(said.get('wear') ?? '{}'));
  } catch {
    return { textures: [], tints: [] };
  }
}

/** The same as an address has it; nothing where nothing is tried. */
export function triedWord({ textures, tints }: Tried): string | undefined {
  if (textures.length === 0 && tints.length === 0) return undefined;
  return JSON.stringify({ ...(textures.length > 0 && { textures }), ...(tints.length > 0 && { tints }) });
}

/** Who says what a role of a material wears; the first of these that says anything counts. */
export type Source = 'tried' | 'said' | 'palette' | 'file' | 'name' | 'none';

export interface RoleState {
  role: TextureRole;
  colourSpace: 'sRGB' | 'linear';
  source: Source;
  /** File that it wears instead of what the model’s file says; null for none, or for what the file says. */
  path: string | null;
  /** What the model’s file calls its picture; null where it has none of this role. */
  own: string | null;
  choices: TextureChoice[];
  /** The choice that is worn, where it is one of them. */
  choice: TextureChoice | null;
  /** Of packed channels: what lies in which. */
  channels: TextureChoice['channels'];
  /** Whether a person said a file that this build does not have. */
  isGone: boolean;
}

export interface MaterialState {
  entry: MaterialEntry;
  roles: RoleState[];
}

export function isSameSlot(a: Omit<SaidTexture, 'texture'>, b: Omit<SaidTexture, 'texture'>): boolean {
  return a.material === b.material && a.role === b.role;
}

/**
 * What the materials of a model wear: what is tried before what people said, then what the chosen palette has, what the
 * model’s file says, and last what names say for sure.
 */
export function materialStates(
  materials: readonly MaterialEntry[],
  sets: TextureSets | undefined,
  tried: Tried,
  palette: string | null,
  isByName: boolean,
): MaterialState[] {
  return materials.map((entry) => {
    const found = sets?.materials.find(({ material }) => material === entry.name);
    const roles = textureRoleSchema.options.flatMap((role): RoleState[] => {
      const slot = { material: entry.name, role };
      const own = entry.textures.find((texture) => texture.role === role)?.name ?? null;
      const choices = found?.roles.find((one) => one.role === role)?.choices ?? [];
      const trying = tried.textures.find((one) => isSameSlot(one, slot));
      const saying = sets?.said.find((one) => isSameSlot(one, slot));
      if (own === null && choices.length === 0 && !trying && !saying) return [];
      const plain = { role, own, choices, colourSpace: spaceOfRole(role), isGone: false };
      const as = (source: Source, path: string | null): RoleState => {
        const choice = choices.find((one) => one.path === path) ?? null;
        const channels = choice?.channels ?? (saying?.texture === path ? saying?.channels : undefined) ?? [];
        return { ...plain, source, path, choice, channels };
      };
      if (trying) return [as('tried', trying.texture)];
      if (saying && (saying.texture === null || saying.isThere)) return [as('said', saying.texture)];
      const isGone = saying !== undefined;
      const painted =
        palette === null ? undefined : choices.find(({ variant, isSure }) => isSure && variant === palette);
      if (painted) return [{ ...as('palette', painted.path), isGone }];
      if (own !== null) return [{ ...as('file', null), isGone }];
      const [first] = choices;
      if (isByName && first?.isSure) return [{ ...as('name', first.path), isGone }];
      return [{ ...as('none', null), isGone }];
    });
    return { entry, roles };
  });
}

/** What a canvas dresses the materials in. */
export function wornBy(
  states: readonly MaterialState[],
  tints: readonly Tint[],
  addressOf: (path: string) => string,
): WornTexture[] {
  return states.flatMap(({ entry: { name: material }, roles }) => {
    const worn: WornTexture[] = [];
    const tint = tints.find((one) => one.material === material);
    for (const { role, source, path, channels } of roles) {
      if (source === 'file' || source === 'none') continue;
      const address = path === null ? null : addressOf(path);
      if (role !== 'packed channels') {
        const isTinted = role === 'tint mask' && tint !== undefined;
        worn.push({
          ...{ material, role, address },
          channel: isTinted ? tint.channel : null,
          tint: isTinted ? Number.parseInt(tint.colour.slice(1), 16) : null,
        });
        continue;
      }
      // Each channel stands for its role, where that has no picture of its own.
      for (const { role: held, channel } of channels) {
        const itself = roles.find((one) => one.role === held);
        if (itself && itself.source !== 'none') continue;
        worn.push({ material, role: held, address, channel, tint: null });
      }
    }
    return worn;
  });
}
