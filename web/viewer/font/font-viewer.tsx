import { Box, Button, InputBase, Slider, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { FontFacts } from '../../../contract/facts.ts';
import {
  codeText,
  lackingIn,
  placeOfCharacter,
  typedCharacter,
} from '../../../core/kinds/font/characters.ts';
import { plural } from '../../../core/figures.ts';
import { Loading } from '../../ui/states.tsx';
import { TextFilter } from '../../ui/text-filter.tsx';
import { Toolbar } from '../toolbar.tsx';
import { CharacterGrid } from './character-grid.tsx';
import { useViewerWords } from '../model/use-viewer-words.ts';
import { useFont } from './use-font.ts';

const firstText =
  'Ferry, 12 past 3: “Mind the quay!”\nABCDEFGHIJKLMNOPQRSTUVWXYZ\nabcdefghijklmnopqrstuvwxyz\n0123456789 ÄÖÜßçéñø';
const [smallest, largest, usual] = [8, 160, 36];
const shownLacking = 40;
/** What an address has where all was taken out: it has no empty words. */
const emptied = '\n';

/** A font that writes what people type, with what it lacks of that, and all that it has. */
export default function FontViewer({
  source,
  charactersAt,
  facts,
  name,
  children,
}: {
  source: string;
  charactersAt: string;
  facts: FontFacts;
  name: string;
  /** What is shown where the browser does not write with it. */
  children: ReactNode;
}): ReactNode {
  const shown = useFont(source, charactersAt);
  // What is typed counts at once, however late the address follows.
  const [said, say] = useViewerWords(true);
  const typed = said.get('type') ?? firstText;
  const text = typed === emptied ? '' : typed;
  const pixels = Math.min(largest, Math.max(smallest, Number(said.get('size')) || usual));
  const [wanted, setWanted] = useState('');
  if (!shown) return <Loading what={name} />;
  const { family, characters, failure } = shown;
  const code = typedCharacter(wanted);
  const place = characters && code >= 0 ? placeOfCharacter(characters, code) : -1;
  const lacking = characters ? lackingIn(characters, text) : [];
  const type = (next: string): void =>
    say({ type: next === firstText ? undefined : next === '' ? emptied : next });
  return (
    <Box sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Toolbar label="Font">
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 1, width: 240 }}>
          <Typography variant="body2" sx={{ whiteSpace: 'nowrap' }}>{`${pixels} px`}</Typography>
          <Slider
            size="small"
            aria-label="Size in pixels"
            min={smallest}
            max={largest}
            value={pixels}
            onChange={(_, value) => say({ size: value === usual ? undefined : String(value) })}
          />
        </Box>
        <Button size="small" disabled={text === firstText} onClick={() => type(firstText)}>
          As at first
        </Button>
        {characters && (
          <>
            <TextFilter
              value={wanted}
              onChange={setWanted}
              label="A character, or U+00E9"
              name="Find a character"
            />
            <Typography role="status" variant="body2" color="text.secondary" sx={{ alignSelf: 'center' }}>
              {code < 0
                ? `${plural(characters.total, 'character')}: ${facts.coverage.slice(0, 4).join(', ')}`
                : `${codeText(code)} ${place >= 0 && lackingIn(characters, String.fromCodePoint(code)).length === 0 ? 'is there' : 'is not there'}`}
            </Typography>
          </>
        )}
      </Toolbar>
      {failure !== '' && (
        <Typography role="alert" sx={{ px: 2, py: 1, bgcolor: 'background.paper' }}>
          {`Not all of it can be shown: ${failure}.`}
        </Typography>
      )}
      {family === null ? (
        <Box sx={{ flex: 1, minHeight: 160, p: 4, display: 'grid', placeItems: 'center' }}>{children}</Box>
      ) : (
        <InputBase
          multiline
          value={text}
          onChange={({ target }) => type(target.value)}
          inputProps={{ 'aria-label': 'What the font writes', spellCheck: false, maxLength: 2000 }}
          sx={{
            ...{ flex: 1, minHeight: 160, alignItems: 'flex-start', overflow: 'auto', p: 2 },
            ...{ fontFamily: `"${family}"`, fontSize: pixels, lineHeight: 1.35, bgcolor: 'plate' },
          }}
        />
      )}
      {lacking.length > 0 && (
        <Typography
          role="status"
          sx={{ px: 2, py: 0.5, bgcolor: 'background.paper', borderTop: 1, borderColor: 'divider' }}
        >
          {`It lacks ${lacking.slice(0, shownLacking).join(' ')}${lacking.length > shownLacking ? ` and ${lacking.length - shownLacking} more` : ''} of what is typed: another font stands in.`}
        </Typography>
      )}
      {characters && characters.total > 0 && family !== null && (
        <CharacterGrid {...{ characters, family }} marked={place} onType={(letter) => type(text + letter)} />
      )}
    </Box>
  );
}
