import { useSnackbar } from 'notistack';
import { useNavigate } from 'react-router';
import { failureText } from '../ui/api.ts';
import { usePlace, useSpan, viewPath } from '../ui/use-span.ts';
import { useStartEntriesMutation } from './start-entries-api.ts';

/** Starts an entry of the catalogue with one asset, filled in from what is known of it, and goes there. */
export function useStartEntry(): { start: (path: string) => Promise<void>; isStarting: boolean } {
  const place = usePlace();
  const span = useSpan();
  const navigate = useNavigate();
  const { enqueueSnackbar } = useSnackbar();
  const [start, { isLoading }] = useStartEntriesMutation();
  return {
    isStarting: isLoading,
    async start(path) {
      const { data, error } = await start({
        channel: place.channel.id,
        build: span.to?.label ?? '',
        paths: [path],
      });
      const entry = data?.[0];
      if (entry) await navigate(viewPath(place, `catalogue/${entry.id}`));
      else enqueueSnackbar(failureText(error), { variant: 'error' });
    },
  };
}
