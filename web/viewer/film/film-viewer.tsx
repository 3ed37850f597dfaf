import { Box, Typography } from '@mui/material';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import type { FilmFacts } from '../../../contract/facts.ts';
import { Toggle } from '../../ui/toggle.tsx';
import { useViewerWords } from '../model/use-viewer-words.ts';
import { Toolbar } from '../toolbar.tsx';
import { FramesSheet } from './frames-sheet.tsx';
import { frameMoments } from './frame-moments.ts';

/** A film as the browser plays it, or as a sheet of its frames, with its sound where it is not played. */
export default function FilmViewer({
  source,
  films,
  facts,
  name,
}: {
  source: string;
  /** Where its frames and its sound are asked for: behind it comes which, and of what format. */
  films: (what: 'frame' | 'sound', more?: Record<string, number>) => string;
  /** Null where nothing could be found out: the browser may play it nevertheless. */
  facts: FilmFacts | null;
  name: string;
}): ReactNode {
  const [words, say] = useViewerWords(true);
  const player = useRef<HTMLVideoElement>(null);
  const [isRefused, setRefused] = useState(false);
  const [begins, setBegins] = useState(0);
  const picture = facts?.tracks.find(({ sort }) => sort === 'video');
  const hasPicture = picture !== undefined;
  const hasSound = facts?.tracks.some(({ sort }) => sort === 'audio') ?? false;
  const isSheet = isRefused || words.get('frames') === 'on';
  useEffect(() => {
    // A film may be there, or fail, while the page is still being made: nobody listens yet.
    if (player.current && isUnseen(player.current, hasPicture)) setRefused(true);
  }, [isSheet, hasPicture]);
  const moments = frameMoments(facts?.seconds ?? 0);
  return (
    <Box sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      {!isRefused && picture && (
        <Toolbar label="Film">
          <Toggle isOn={!isSheet} onClick={() => say({ frames: undefined })}>
            Play
          </Toggle>
          <Toggle
            isOn={isSheet}
            onClick={() => {
              setBegins(player.current?.currentTime ?? 0);
              say({ frames: 'on' });
            }}
          >
            Frames
          </Toggle>
        </Toolbar>
      )}
      {isRefused && (
        <Typography role="status" sx={{ px: 2, py: 1 }}>
          {`This browser does not play it${picture && picture.codec !== 'unknown' ? ` (its pictures are coded as ${picture.codec})` : ''}. ${picture ? `Below are its frames${hasSound ? ' and its sound' : ''}, from the server.` : ''}`}
        </Typography>
      )}
      {isSheet ? (
        <>
          {isRefused && hasSound && (
            <Box
              component="audio"
              controls
              preload="none"
              src={films('sound')}
              aria-label={`Sound of ${name}`}
              sx={{ mx: 2, width: 'calc(100% - 32px)' }}
            />
          )}
          {picture && (
            <FramesSheet
              moments={moments}
              width={picture.width ?? 16}
              height={picture.height ?? 9}
              addressOf={(at) => films('frame', { at, width: 320 })}
              onOpen={
                isRefused
                  ? null
                  : (at) => {
                      setBegins(at);
                      say({ frames: undefined });
                    }
              }
            />
          )}
        </>
      ) : (
        <Box
          component="video"
          controls
          ref={player}
          src={source}
          aria-label={name}
          onLoadedMetadata={({ currentTarget }) => {
            if (isUnseen(currentTarget, hasPicture)) setRefused(true);
            else if (begins > 0) currentTarget.currentTime = begins;
          }}
          onError={() => setRefused(true)}
          sx={{ flex: 1, minWidth: 0, minHeight: 0, bgcolor: 'plate' }}
        />
      )}
    </Box>
  );
}

/** Whether a browser does not show a film: it refused it, or some coding is heard and not seen. */
function isUnseen({ error, readyState, videoWidth }: HTMLVideoElement, hasPicture: boolean): boolean {
  return error !== null || (hasPicture && readyState >= HTMLMediaElement.HAVE_METADATA && videoWidth === 0);
}
