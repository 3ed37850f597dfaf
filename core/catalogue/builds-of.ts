import type { EditionBuild, EditionEntry } from '../../contract/editions.ts';

/** What each build brought to a catalogue, by the histories of the entries' assets. @param builds newest first */
export function buildsOf(
  builds: readonly Pick<EditionBuild, 'channel' | 'label' | 'releasedAt'>[],
  entries: readonly EditionEntry[],
): EditionBuild[] {
  const told = new Map<string, EditionBuild>();
  const key = (channel: string, label: string): string => `${channel}\n${label}`;
  for (const build of builds)
    told.set(key(build.channel, build.label), { ...build, added: [], changed: [], removed: [] });
  for (const { address, channel, assets, spoiler } of entries) {
    if (spoiler) continue;
    const first = assets.flatMap(({ history }) => history.slice(0, 1)).map(({ build }) => build);
    const steps = new Map<string, 'added' | 'changed' | 'removed'>();
    for (const { history } of assets)
      for (const { build, what } of history) {
        const isFirst = what === 'appeared' && first.every((other) => other === build);
        const now = isFirst ? 'added' : what === 'vanished' ? 'removed' : 'changed';
        // An entry that came with a build has changed with it in no other way.
        if (steps.get(build) !== 'added') steps.set(build, now);
      }
    for (const [build, what] of steps) told.get(key(channel, build))?.[what].push(address);
  }
  return [...told.values()];
}
