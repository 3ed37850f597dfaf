import type { EntryDraft, EntryState } from '../../../contract/catalogue.ts';
import { change, type Queryable } from '../../platform/database/rows.ts';
import { ConflictError } from '../../platform/plain-error.ts';

/** An entry as it was before somebody saves it. */
export interface Reviewed {
  state: EntryState;
  writtenBy: string;
  approvedBy: string;
}

/**
 * Who wrote and who approved an entry, once somebody has saved it.
 * @param before null for an entry that is made
 * @param isChanged whether more than its state is another
 * @param twoPeople whether the title asks for two
 * @throws ConflictError where that would be one person alone, or what nobody approved
 */
export function review(
  before: Reviewed | null,
  { state }: Pick<EntryDraft, 'state'>,
  isChanged: boolean,
  by: string,
  twoPeople: boolean,
): Omit<Reviewed, 'state'> {
  const writtenBy = isChanged || !before ? by : before.writtenBy;
  // What was approved was what it said then.
  const approvedBefore = isChanged ? '' : (before?.approvedBy ?? '');
  if (state === 'approved' && before?.state !== 'approved') {
    if (twoPeople && (by === '' || by === writtenBy))
      throw new ConflictError(
        'Whoever wrote an entry last cannot approve it: this title asks for two people.',
      );
    return { writtenBy, approvedBy: by };
  }
  if (twoPeople && (state === 'approved' || state === 'published') && approvedBefore === '')
    throw new ConflictError(
      isChanged && before
        ? 'What it says was changed since it was approved: save it as “in review”, and somebody else approves it.'
        : 'Nobody has approved this entry: this title asks for two people.',
    );
  return { writtenBy, approvedBy: approvedBefore };
}

export async function keepReview(
  database: Queryable,
  id: number,
  { writtenBy, approvedBy }: Omit<Reviewed, 'state'>,
): Promise<void> {
  await change(database, 'UPDATE entries SET written_by = ?, approved_by = ? WHERE id = ?', [
    writtenBy,
    approvedBy,
    id,
  ]);
}
