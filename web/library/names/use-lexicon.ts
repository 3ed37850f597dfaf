import { useSnackbar } from 'notistack';
import type { LexiconChange } from '../../../contract/names.ts';
import { failureText } from '../../ui/api.ts';
import { useChangeLexiconMutation } from './api.ts';

/** Changes a lexicon, and says so where it fails. @returns whether it went well */
export function useChange(titleId: number): (change: Partial<LexiconChange>) => Promise<boolean> {
  const { enqueueSnackbar } = useSnackbar();
  const [send] = useChangeLexiconMutation();
  return async (change) => {
    const { error } = await send({ titleId, change });
    if (error) enqueueSnackbar(failureText(error), { variant: 'error' });
    return !error;
  };
}
