import { Box, Button, IconButton, Link as MuiLink, TextField, Typography } from '@mui/material';
import CloseIcon from '@mui/icons-material/Close';
import UndoIcon from '@mui/icons-material/Undo';
import { useSnackbar } from 'notistack';
import { useState, type FormEvent, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { Asset } from '../../../contract/assets.ts';
import type { FamilyMember } from '../../../contract/families.ts';
import { plural } from '../../../core/figures.ts';
import { Tip } from '../../ui/tip.tsx';
import { failureText } from '../../ui/api.ts';
import { PathText, nameOf } from '../../ui/path-text.tsx';
import { assetPath, usePlace, useSpan } from '../../ui/use-span.ts';
import { useCollecting } from '../collecting.tsx';
import { useCorrectFamilyMutation, useFamilyQuery } from './api.ts';

const shownAtFirst = 14;

/** What an asset belongs together with, why, and how that is put right. */
export function FamilyPanel({ asset }: { asset: Asset }): ReactNode {
  const { channel } = usePlace();
  const { enqueueSnackbar } = useSnackbar();
  const [isWhole, setWhole] = useState(false);
  const [other, setOther] = useState('');
  const { data: family, error } = useFamilyQuery({
    channel: channel.id,
    build: asset.build,
    path: asset.path,
  });
  const [correct] = useCorrectFamilyMutation();
  const collecting = useCollecting({ channel: channel.id, build: asset.build });
  const send = async (change: { paths: string[]; with: string | null; undo?: boolean }): Promise<void> => {
    const answer = await correct({ channel: channel.id, ...change });
    if (answer.error) enqueueSnackbar(failureText(answer.error), { variant: 'error' });
  };
  const join = (event: FormEvent): void => {
    event.preventDefault();
    void send({ paths: [other.trim()], with: asset.path }).then(() => setOther(''));
  };
  if (error) return <Typography color="text.secondary">{failureText(error)}</Typography>;
  if (!family)
    return (
      <Typography color="text.secondary" role="status">
        Gathering the family…
      </Typography>
    );
  const members = isWhole ? family.members : family.members.slice(0, shownAtFirst);
  return (
    <Box id="family">
      <Typography variant="h2">Family</Typography>
      <Typography variant="body2" color="text.secondary">
        {family.total === 1
          ? 'Nothing else belongs to it.'
          : `${family.name}${family.meaning === '' ? '' : `, ${family.meaning}`}: ${plural(family.total, 'file')}`}
      </Typography>
      <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {members.map((member) => (
          <Member
            key={member.path}
            member={member}
            isHere={member.path === asset.path}
            onSend={send}
            isAlone={family.total === 1}
          />
        ))}
      </Box>
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        {family.members.length > shownAtFirst && !isWhole && (
          <Button onClick={() => setWhole(true)}>{`All ${family.total.toLocaleString('en')}`}</Button>
        )}
        {family.total > 1 && (
          <Button onClick={() => void collecting.collect(family.members.map(({ path }) => path))}>
            Add the family to the haul
          </Button>
        )}
      </Box>
      <Box component="form" onSubmit={join} sx={{ display: 'flex', gap: 1, alignItems: 'flex-end' }}>
        <TextField
          variant="standard"
          label="Path of another member"
          value={other}
          onChange={({ target }) => setOther(target.value)}
          fullWidth
          slotProps={{ htmlInput: { className: 'path' } }}
        />
        <Button type="submit" disabled={other.trim() === ''}>
          Join
        </Button>
      </Box>
    </Box>
  );
}

/** What a member is in its family, in a few words. */
function partText({
  kind,
  level,
  textureRole,
  colourSpace,
  variants,
  isFinest,
  figures,
}: FamilyMember): string {
  const triangles =
    figures.triangles === undefined ? '' : `${figures.triangles.toLocaleString('en')} triangles`;
  return [
    kind === 'model' ? `level ${level ?? 0}${isFinest ? ', the finest' : ''}` : (textureRole ?? kind),
    colourSpace === null ? '' : colourSpace,
    ...variants,
    triangles,
  ]
    .filter((text) => text !== '')
    .join(', ');
}

interface MemberProps {
  member: FamilyMember;
  isHere: boolean;
  isAlone: boolean;
  onSend: (change: { paths: string[]; with: string | null; undo?: boolean }) => Promise<void>;
}

function Member({ member, isHere, isAlone, onSend }: MemberProps): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const why = member.reasons.join('; ');
  const isSaid = why.startsWith('a person ');
  return (
    <Box
      component="li"
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr) 26px',
        borderBottom: 1,
        borderColor: 'divider',
        alignItems: 'center',
      }}
    >
      <Box sx={{ minWidth: 0, py: 0.25 }}>
        {isHere ? (
          <strong>
            <PathText path={nameOf(member.path)} />
          </strong>
        ) : (
          <MuiLink
            component={Link}
            to={assetPath(place, span, member.path, member.build)}
            color="inherit"
            title={member.path}
          >
            <PathText path={nameOf(member.path)} />
          </MuiLink>
        )}
        <Typography variant="body2" component="div">
          {partText(member)}
        </Typography>
        {!isAlone && (
          <Typography
            variant="caption"
            component="div"
            color="text.secondary"
            sx={{ lineHeight: 1.2, overflowWrap: 'anywhere' }}
          >
            {why}
          </Typography>
        )}
      </Box>
      {isSaid ? (
        <Tip title="Take back what was said of it">
          <IconButton
            size="small"
            aria-label={`Take back what was said of ${nameOf(member.path)}`}
            onClick={() => void onSend({ paths: [member.path], with: null, undo: true })}
          >
            <UndoIcon fontSize="inherit" />
          </IconButton>
        </Tip>
      ) : (
        !isAlone && (
          <Tip title="It does not belong here">
            <IconButton
              size="small"
              aria-label={`Take ${nameOf(member.path)} out of the family`}
              onClick={() => void onSend({ paths: [member.path], with: null })}
            >
              <CloseIcon fontSize="inherit" />
            </IconButton>
          </Tip>
        )
      )}
    </Box>
  );
}
