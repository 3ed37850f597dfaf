import {
  Box,
  Button,
  Checkbox,
  FormControlLabel,
  Link as MuiLink,
  MenuItem,
  TextField,
  Typography,
} from '@mui/material';
import { useState, type FormEvent, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { entryDraftSchema, entryStateSchema, type Entry } from '../../contract/catalogue.ts';
import { describe } from '../../core/findings/evidence.ts';
import { failureText } from '../ui/api.ts';
import { formText } from '../ui/form-text.ts';
import { PathText } from '../ui/path-text.tsx';
import { usePlace, viewPath } from '../ui/use-span.ts';
import { EntryPlate } from './entry-plate.tsx';
import { lines, readLines } from './entry-fields.ts';
import { EntryRemarks } from './entry-remarks.tsx';
import { useRemoveEntryMutation, useSaveEntryMutation } from './api.ts';
import { NoteText } from './notes/note-text.tsx';

const plainDetails = ['thing', 'sources', 'rights', 'spoilerUntil', 'withheldWhy', 'withheldUntil'] as const;

/** One entry: its names and state on the left, what it shows on the right. */
export function EntryPage({ entry }: { entry: Entry }): ReactNode {
  const { details } = entry;
  const place = usePlace();
  const navigate = useNavigate();
  const [save, { error, isLoading }] = useSaveEntryMutation();
  const [remove] = useRemoveEntryMutation();
  const [problems, setProblems] = useState<Record<string, string>>({});
  const submit = (event: FormEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const parsed = entryDraftSchema.safeParse({
      ...Object.fromEntries(form),
      channelId: entry.channelId,
      spoiler: form.get('spoiler') === 'on',
      paths: formText(form, 'paths')
        .split('\n')
        .map((path) => path.trim())
        .filter(Boolean),
      details: {
        ...Object.fromEntries(plainDetails.map((name) => [name, formText(form, name)])),
        ...readLines((name) => formText(form, name)),
        downloads: form.get('downloads') === 'on',
      },
    });
    if (!parsed.success) {
      setProblems(
        Object.fromEntries(
          parsed.error.issues.map(({ path, message }) => [
            String(path[0] === 'details' ? path[1] : path[0]),
            message,
          ]),
        ),
      );
      return;
    }
    setProblems({});
    void save({ ...parsed.data, id: entry.id, revision: entry.revision });
  };
  const field = (name: string) => ({
    name,
    error: name in problems,
    helperText: problems[name],
    fullWidth: true,
    size: 'small' as const,
  });
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        overflow: 'auto',
        p: 2,
        display: 'grid',
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) minmax(0, 1fr)' },
        gap: 3,
        alignContent: 'start',
      }}
    >
      <Box sx={{ gridColumn: '1 / -1' }}>
        <MuiLink component={Link} to={viewPath(place, 'catalogue')}>
          All entries
        </MuiLink>
        <Typography variant="h1">{entry.name}</Typography>
      </Box>
      <Box component="form" onSubmit={submit} noValidate sx={{ display: 'grid', gap: 1.5 }}>
        {error && (
          <Typography role="alert" color="primary">
            {failureText(error)}
          </Typography>
        )}
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button type="submit" variant="contained" disabled={isLoading}>
            Save the entry
          </Button>
          <Button
            onClick={() => {
              void remove(entry.id);
              void navigate(viewPath(place, 'catalogue'));
            }}
          >
            Take the entry away
          </Button>
        </Box>
        <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 2 }}>
          <TextField
            {...field('state')}
            select
            label="State"
            defaultValue={entry.state}
            sx={{ maxWidth: 200 }}
          >
            {entryStateSchema.options.map((state) => (
              <MenuItem key={state} value={state}>
                {state}
              </MenuItem>
            ))}
          </TextField>
          <FormControlLabel
            control={<Checkbox name="spoiler" defaultChecked={entry.spoiler} size="small" />}
            label="A spoiler"
          />
          <TextField
            {...field('spoilerUntil')}
            label="… until build"
            defaultValue={details.spoilerUntil}
            sx={{ maxWidth: 140 }}
          />
          <FormControlLabel
            control={<Checkbox name="downloads" defaultChecked={details.downloads} size="small" />}
            label="Offer its files"
          />
        </Box>
        <TextField {...field('name')} label="Name that players know" defaultValue={entry.name} />
        <TextField
          {...field('internalName')}
          label="Name in the files"
          defaultValue={entry.internalName}
          slotProps={{ htmlInput: { className: 'path' } }}
        />
        <TextField {...field('summary')} label="Summary" defaultValue={entry.summary} multiline minRows={2} />
        <TextField
          {...field('names')}
          label="Names in other languages, one a line: de: Weißer Reiher"
          defaultValue={lines.names(details)}
          multiline
        />
        <TextField
          {...field('aliases')}
          label="Also called, one a line"
          defaultValue={lines.aliases(details)}
          multiline
        />
        <Box sx={{ display: 'flex', gap: 1.5 }}>
          <TextField {...field('thing')} label="Kind of thing" defaultValue={details.thing} />
          <TextField {...field('tags')} label="Tags, with commas" defaultValue={lines.tags(details)} />
        </Box>
        <TextField
          {...field('relations')}
          label="Relations, one a line: variant of 12, part of 3, used by 4, replaces 5"
          defaultValue={lines.relations(details)}
          multiline
        />
        <TextField {...field('credits')} label="Credits" defaultValue={entry.credits} />
        <TextField {...field('sources')} label="Sources" defaultValue={details.sources} multiline />
        <TextField
          {...field('rights')}
          label="Rights, where they are others than the title’s"
          defaultValue={details.rights}
          multiline
        />
        <TextField
          {...field('paths')}
          label="Assets, a path a line"
          defaultValue={entry.paths.join('\n')}
          multiline
          minRows={2}
          slotProps={{ htmlInput: { className: 'path' } }}
        />
        <Box sx={{ display: 'flex', gap: 1.5 }}>
          <TextField {...field('withheldWhy')} label="Withheld, why" defaultValue={details.withheldWhy} />
          <TextField
            {...field('withheldUntil')}
            label="… until (day or build)"
            defaultValue={details.withheldUntil}
            sx={{ maxWidth: 200 }}
          />
        </Box>
        <Typography variant="body2" color="text.secondary">
          {[
            `Entry ${entry.id}`,
            entry.writtenBy && `written by ${entry.writtenBy}`,
            entry.approvedBy && `approved by ${entry.approvedBy}`,
          ]
            .filter(Boolean)
            .join(', ')}
        </Typography>
      </Box>
      <Box sx={{ display: 'grid', gap: 1.5, alignContent: 'start' }}>
        <EntryPlate entry={entry} />
        <EntryRemarks id={entry.id} />
        {entry.assets.map((asset) => (
          <Box key={asset.path}>
            {asset.build === null ? (
              <Typography role="alert">
                {'No build holds '}
                <span className="path">{asset.path}</span>
              </Typography>
            ) : (
              <MuiLink
                component={Link}
                to={`${viewPath(place, 'asset')}?to=${encodeURIComponent(asset.build)}&path=${encodeURIComponent(asset.path)}`}
              >
                <PathText path={asset.path} />
              </MuiLink>
            )}
            <Typography variant="body2" color="text.secondary">
              {`${asset.kind}, ${describe(asset.facts) ?? asset.format}; first in ${asset.firstBuild ?? 'no build'}, newest in ${asset.build ?? 'no build'}`}
            </Typography>
            {asset.note ? (
              <NoteText body={asset.note} />
            ) : (
              <Typography color="text.secondary">No note yet: it is written with the asset.</Typography>
            )}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
