import { useSnackbar } from 'notistack';
import { useNavigate } from 'react-router';
import type { EntryInput } from '../../contract/catalogue.ts';
import { failureText } from '../ui/api.ts';
import { nameOf } from '../ui/path-text.tsx';
import { usePlace, viewPath } from '../ui/use-span.ts';
import { useCreateEntryMutation } from './api.ts';

/** The draft of an entry with one asset. */
export function entryOf(channelId: number, path: string): EntryInput {
  const name = nameOf(path);
  return {
    ...{ channelId, internalName: name, paths: [path] },
    name: name.replace(/\.[^.]+$/, '').replace(/[_-]+/g, ' '),
  };
}

/** Starts an entry of the catalogue with one asset, and goes there. */
export function useStartEntry(): { start: (path: string) => Promise<void>; isStarting: boolean } {
  const place = usePlace();
  const navigate = useNavigate();
  const { enqueueSnackbar } = useSnackbar();
  const [create, { isLoading }] = useCreateEntryMutation();
  return {
    isStarting: isLoading,
    async start(path) {
      const { data: entry, error } = await create(entryOf(place.channel.id, path));
      if (entry) await navigate(viewPath(place, `catalogue/${entry.id}`));
      else enqueueSnackbar(failureText(error), { variant: 'error' });
    },
  };
}
