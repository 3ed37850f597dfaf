import { haulSettingsSchema } from '../../contract/haul-settings.ts';
import type { NoteStep, StepOf } from '../../contract/notes.ts';
import { plural } from '../figures.ts';
import { settingsDifferences } from '../hauls/settings-differences.ts';

/** A step as people read it: what is done, and its parameters as a list of names and values. */
export interface StepText {
  what: string;
  parameters: { name: string; value: string }[];
}

/** What a step says, without the words around it. */
export function stepText(step: NoteStep): StepText {
  switch (step.does) {
    case 'bring in':
      return bringInText(step);
    case 'find':
      return {
        what: `Find ${step.path}${inBuild(step.build)}.`,
        parameters: step.blake3 === null ? [] : [{ name: 'BLAKE3', value: step.blake3 }],
      };
    case 'describe':
      return {
        what: `Have the ${step.what} “${step.name}” in the title.`,
        parameters: [{ name: 'SHA-256', value: step.sha256 }],
      };
    case 'search':
      return {
        what: `Search for “${step.query}”${inBuild(step.build)}: it finds ${plural(step.found, 'asset')}.`,
        parameters: [],
      };
    case 'correct':
      return { what: correctText(step), parameters: [] };
    case 'take out':
      return takeOutText(step);
    case 'by hand':
      return { what: 'By hand:', parameters: [] };
  }
}

const inBuild = (build: string): string => (build === '' ? '' : ` in build ${build}`);

function bringInText({
  build,
  platform,
  contentRoot,
  choice,
  formatVersions,
  keys,
}: StepOf<'bring in'>): StepText {
  const parameters = [
    { name: 'Platform', value: platform },
    { name: 'Content root', value: contentRoot ?? '' },
    { name: 'Only', value: choice.only.join(', ') },
    { name: 'Without', value: choice.without.join(', ') },
    {
      name: 'Format versions',
      value: Object.entries(formatVersions)
        .map(([sheet, version]) => `${sheet} ${version}`)
        .join(', '),
    },
    { name: keys.length === 1 ? 'Key' : 'Keys', value: keys.join(', ') },
  ];
  return {
    what: `Bring in build ${build || '(not named)'}.`,
    parameters: parameters.filter(({ value }) => value !== ''),
  };
}

function correctText({ subject, path, where, is }: StepOf<'correct'>): string {
  if (subject === 'family')
    return is === null ? `Say that ${path} belongs to no family.` : `Say that ${path} belongs with ${is}.`;
  if (subject === 'link') return `Link “${where}” in ${path} to ${is ?? 'nothing'}.`;
  const [material = '', role = ''] = where.split('\t');
  return is === null
    ? `Say that the material ${material} of ${path} has no ${role}.`
    : `Say that the ${role} of the material ${material} of ${path} is ${is}.`;
}

function takeOutText({ build, paths, profile, settings, files }: StepOf<'take out'>): StepText {
  const [first = ''] = paths;
  const usual = haulSettingsSchema.parse({});
  return {
    what: `Take out ${paths.length === 1 ? first : plural(paths.length, 'asset')}${build === '' ? '' : ` of build ${build}`}.`,
    parameters: [
      ...(paths.length > 1 ? paths.map((value) => ({ name: 'Asset', value })) : []),
      ...(profile === '' ? [] : [{ name: 'Profile', value: profile }]),
      ...settingsDifferences(settings, usual).map(({ name, value }) => ({ name, value })),
      ...files.map(({ target, sha256 }) => ({ name: 'File', value: `${target}, SHA-256 ${sha256}` })),
    ],
  };
}
