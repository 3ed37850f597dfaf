import type { FormatSheet } from '../../../contract/format-sheets.ts';
import { SheetError } from './sheet-error.ts';

/** Whether a thing is there in a version: versions stand in the sheet from the oldest to the newest. */
export function isInVersion(
  { since, before }: { since?: string | undefined; before?: string | undefined },
  sheet: FormatSheet,
  version: string,
): boolean {
  const place = (name: string): number => {
    const at = sheet.versions?.indexOf(name) ?? -1;
    if (at < 0) throw new SheetError(`there is no version ${name} in the sheet`);
    return at;
  };
  if (since === undefined && before === undefined) return true;
  if (!sheet.versions) throw new SheetError('the sheet has no “versions”, and since and before are of these');
  const now = place(version);
  return (since === undefined || now >= place(since)) && (before === undefined || now < place(before));
}
