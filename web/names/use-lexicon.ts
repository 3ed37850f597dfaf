import { useSnackbar } from 'notistack';
import type { LexiconChange } from '../../contract/names.ts';
import { failureText } from '../shell/api.ts';
import { useChangeLexiconMutation } from './api.ts';

/** Who says so: the name that somebody gave last, on this machine. */
export function sayerName(): string {
  return localStorage.getItem('sayer') ?? '';
}

export function rememberSayer(name: string): void {
  localStorage.setItem('sayer', name);
}

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
