import type { NoiseTest } from '../../../contract/noise.ts';

/** What a rule asks, in words. */
export function testText(test: NoiseTest): string {
  const any = (values: readonly string[]): string => values.join(' or ');
  return [
    test.statuses.length > 0 ? any(test.statuses) : '',
    test.kinds.length > 0 ? `of ${any(test.kinds)}` : '',
    test.natures.length > 0 ? `compared as ${any(test.natures)}` : '',
    test.mostExtent !== null ? `at most ${Number((test.mostExtent * 100).toPrecision(3))} % changed` : '',
    test.paths.length > 0 ? `at ${any(test.paths)}` : '',
    test.inMovedFolder ? 'part of a folder that moved as a whole' : '',
    test.isHelper ? 'named as a helper shape' : '',
    test.isLevelCopy ? 'a lower level of what is shown' : '',
  ]
    .filter(Boolean)
    .join(', ');
}
