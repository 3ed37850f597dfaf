import type { SheetFit } from '../../contract/kept-sheets.ts';

/** Files that differ in numbers alone fail for one reason: the first of them stands for all. */
export function isSameReason(a: string, b: string): boolean {
  return withoutNumbers(a) === withoutNumbers(b);
}

function withoutNumbers(reason: string): string {
  return reason.replaceAll(/\b(0x[0-9A-F]+|\d[\d,]*)\b/g, '#');
}

/** What was tried in two goes, in one: the most common first. */
export function joinFits(before: SheetFit | null, more: SheetFit): SheetFit {
  const versions = new Map<string, number>();
  const failures: SheetFit['failures'] = [];
  for (const fit of before ? [before, more] : [more]) {
    for (const { version, files } of fit.versions)
      versions.set(version, (versions.get(version) ?? 0) + files);
    for (const { reason, files, paths } of fit.failures) {
      const known = failures.find((failure) => isSameReason(failure.reason, reason));
      if (known) {
        known.files += files;
        known.paths = [...known.paths, ...paths].slice(0, 20);
      } else failures.push({ reason, files, paths });
    }
  }
  return {
    ...more,
    versions: [...versions].map(([version, files]) => ({ version, files })).sort((a, b) => b.files - a.files),
    failures: failures.sort((a, b) => b.files - a.files).slice(0, 100),
    left: (before?.left ?? 0) + more.left,
  };
}

/** How many files were tried, and how many of these fit. */
export function fitCounts({ files, next, left, versions }: SheetFit): { tried: number; fitting: number } {
  return {
    tried: (next ?? files) - left,
    fitting: versions.reduce((sum, version) => sum + version.files, 0),
  };
}
