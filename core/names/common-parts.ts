import type { LexiconEntry, NameRole } from '../../contract/names.ts';

/**
 * Parts that the trade uses everywhere, by what they mean. Common practice, with no published source; a title's own
 * lexicon goes before them.
 */
const table: readonly [role: NameRole, meaning: string, parts: string][] = [
  ['LOD', 'level of detail #', 'lod# l#'],
  ['texture role', 'base colour', 'col color colour albedo alb diff diffuse basecolor basecolour bc'],
  ['texture role', 'normal', 'nrm norm normal nor nm nmap normalmap'],
  ['texture role', 'roughness', 'rgh rough roughness'],
  ['texture role', 'gloss', 'gls gloss glossiness smoothness'],
  ['texture role', 'metalness', 'met metal metallic metalness'],
  ['texture role', 'specular', 'spc spec specular'],
  ['texture role', 'occlusion', 'ao occ occlusion'],
  ['texture role', 'emission', 'emi emis emissive emission glow'],
  ['texture role', 'opacity', 'opa opacity'],
  ['texture role', 'scatter', 'sss scatter'],
  ['texture role', 'tint mask', 'msk mask tintmask'],
  ['texture role', 'packed channels', 'orm rma arm mra packed'],
  ['texture role', 'height', 'hgt height disp displacement'],
  ['view', 'first person', '1p fp firstperson'],
  ['view', 'third person', '3p tp thirdperson'],
  ['quality', 'low quality', 'lq lowres lowpoly'],
  ['quality', 'high quality', 'hq hires highpoly'],
  ['body half', 'upper body', 'upper upperbody'],
  ['body half', 'lower body', 'lower lowerbody'],
  ['players', 'for # players', '#pl #players'],
  ['palette number', 'palette #', 'p# pal#'],
];

export const commonParts: readonly LexiconEntry[] = table.flatMap(([role, meaning, parts]) =>
  parts.split(' ').map((part) => ({ part, role, meaning, saidBy: 'common practice', sinceBuild: '' })),
);

/** Roles of textures that hold colour; all others hold data and are linear. Common practice, with no published source. */
const colourRoles: ReadonlySet<string> = new Set(['base colour', 'emission', 'specular']);

export function colourSpaceOf(textureRole: string): 'sRGB' | 'linear' {
  return colourRoles.has(textureRole) ? 'sRGB' : 'linear';
}
