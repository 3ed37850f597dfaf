import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useState, type ReactNode } from 'react';
import type { HaulSettings } from '../../contract/haul-settings.ts';
import type { Haul, HaulRequest } from '../../contract/hauls.ts';
import { bytesText, plural } from '../../core/figures.ts';
import { failureText } from '../ui/api.ts';
import { PaneTabs } from '../ui/pane-tabs.tsx';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { useAddress } from '../ui/use-address.ts';
import { usePlace } from '../ui/use-span.ts';
import {
  useChangeHaulMutation,
  useHaulPlanQuery,
  useHaulsQuery,
  useMakeHaulMutation,
  useRemoveHaulMutation,
  useRunHaulMutation,
} from './api.ts';
import { ChosenPane } from './chosen-pane.tsx';
import { PlanPane } from './plan-pane.tsx';
import { RectanglePane } from './rectangle-pane.tsx';
import { SettingsPanel } from './settings-panel.tsx';
import { WrittenPane } from './written-pane.tsx';

const panes = {
  plan: 'What will come out',
  chosen: 'What was chosen',
  written: 'What was written',
  rectangle: 'Rectangle of pictures',
} as const;
type Pane = keyof typeof panes;
const mostRows = 20_000;

/** What is to be taken out together, how, and what came of it. */
export function HaulView(): ReactNode {
  const place = usePlace();
  const channel = place.channel.id;
  const [parameters, change] = useAddress();
  const { data: hauls, error, isLoading, refetch } = useHaulsQuery(channel);
  if (isLoading) return <Loading what="the hauls" />;
  if (error || !hauls) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  const asked = Number(parameters.get('haul'));
  const haul = hauls.find(({ id }) => id === asked) ?? hauls[0];
  const pane =
    (parameters.get('pane') ?? 'plan') in panes ? ((parameters.get('pane') ?? 'plan') as Pane) : 'plan';
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <HaulHead haul={haul} hauls={hauls} channel={channel} />
      {!haul ? (
        <Empty title="There is no haul yet">
          Choose assets in the library, or all that a search finds, and add them to the haul.
        </Empty>
      ) : (
        <HaulRoom
          key={haul.id}
          haul={haul}
          channel={channel}
          pane={pane}
          onPane={(name) => change({ pane: name })}
        />
      )}
    </Box>
  );
}

function HaulHead({
  haul,
  hauls,
  channel,
}: {
  haul: Haul | undefined;
  hauls: readonly Haul[];
  channel: number;
}): ReactNode {
  const [, change] = useAddress();
  const [make] = useMakeHaulMutation();
  const [changeHaul] = useChangeHaulMutation();
  const [remove] = useRemoveHaulMutation();
  const [naming, setNaming] = useState<'new' | 'rename' | null>(null);
  const [name, setName] = useState('');
  const [problem, setProblem] = useState('');
  const save = async (): Promise<void> => {
    try {
      const saved =
        naming === 'rename' && haul
          ? await changeHaul({ id: haul.id, name }).unwrap()
          : await make({ channel, name }).unwrap();
      change({ haul: String(saved.id), run: undefined });
      setNaming(null);
    } catch (failure) {
      setProblem(failureText(failure as Parameters<typeof failureText>[0]));
    }
  };
  const begin = (what: 'new' | 'rename'): void => {
    setNaming(what);
    setName(what === 'rename' ? (haul?.name ?? '') : '');
    setProblem('');
  };
  return (
    <Box
      sx={{
        ...{ px: 2, py: 0.75, borderBottom: 1, borderColor: 'divider' },
        ...{ display: 'flex', flexWrap: 'wrap', gap: 1, alignItems: 'center' },
      }}
    >
      <Typography variant="h1" sx={{ mr: 1 }}>
        Haul
      </Typography>
      {naming === null ? (
        <>
          {hauls.length > 0 && (
            <TextField
              select
              size="small"
              label="Which"
              value={haul?.id ?? ''}
              onChange={({ target }) => change({ haul: target.value, run: undefined })}
              sx={{ minWidth: 200 }}
            >
              {hauls.map(({ id, name: called }) => (
                <MenuItem key={id} value={id} dense>
                  {called}
                </MenuItem>
              ))}
            </TextField>
          )}
          <Typography role="status" sx={{ flex: 1 }}>
            {haul ? `${plural(haul.assets, 'asset')} chosen, ${bytesText(haul.bytes)}` : ''}
          </Typography>
          <Button onClick={() => begin('new')}>New haul</Button>
          {haul && <Button onClick={() => begin('rename')}>Rename</Button>}
          {haul && (
            <Button onClick={() => void remove(haul.id).then(() => change({ haul: undefined }))}>
              Remove
            </Button>
          )}
        </>
      ) : (
        <Box
          component="form"
          sx={{ display: 'flex', gap: 1, flex: 1 }}
          onSubmit={(event) => {
            event.preventDefault();
            void save();
          }}
        >
          <TextField
            size="small"
            autoFocus
            label={naming === 'new' ? 'Name of the new haul' : 'New name'}
            value={name}
            onChange={({ target }) => setName(target.value)}
            error={problem !== ''}
            helperText={problem}
            sx={{ minWidth: 280 }}
          />
          <Button type="submit" disabled={name.trim() === ''}>
            Save
          </Button>
          <Button onClick={() => setNaming(null)}>Cancel</Button>
        </Box>
      )}
    </Box>
  );
}

function HaulRoom({
  haul,
  channel,
  pane,
  onPane,
}: {
  haul: Haul;
  channel: number;
  pane: Pane;
  onPane: (pane: Pane) => void;
}): ReactNode {
  const [changeHaul] = useChangeHaulMutation();
  // What is chosen here stands at once, and is kept while the server writes it down.
  const [settings, setSettings] = useState(haul.settings);
  const choose = (chosen: HaulSettings): void => {
    setSettings(chosen);
    void changeHaul({ id: haul.id, settings: chosen });
  };
  const request = { channel, haul: haul.id, name: haul.name, assets: [], settings };
  const plan = useHaulPlanQuery(
    { ...request, offset: 0, limit: mostRows },
    { skip: (pane !== 'plan' && pane !== 'rectangle') || haul.assets === 0 },
  );
  const { rectangle: _rectangle, ...withoutRectangle } = panes;
  const isCropped = settings.pictures.as !== 'as it lay';
  const shownPane = pane === 'rectangle' && !isCropped ? 'plan' : pane;
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        display: 'flex',
        flexDirection: { xs: 'column', md: 'row' },
        overflow: { xs: 'auto', md: 'hidden' },
      }}
    >
      <Box
        sx={{
          width: { md: 340 },
          flexShrink: 0,
          borderRight: { md: 1 },
          borderColor: { md: 'divider' },
          display: 'flex',
          flexDirection: 'column',
        }}
      >
        <Box sx={{ flex: 1, minHeight: 0, overflow: { md: 'auto' } }} tabIndex={-1}>
          <SettingsPanel settings={settings} onChange={choose} />
        </Box>
        <WriteForm request={request} isEmpty={haul.assets === 0} />
      </Box>
      <Box
        sx={{ flex: 1, minWidth: 0, minHeight: { xs: 480, md: 0 }, display: 'flex', flexDirection: 'column' }}
      >
        <PaneTabs
          label="What is shown of the haul"
          panes={isCropped ? panes : withoutRectangle}
          shown={shownPane}
          onShow={onPane}
        />
        {shownPane === 'chosen' && <ChosenPane haul={haul.id} />}
        {shownPane === 'written' && <WrittenPane channel={channel} />}
        {shownPane === 'rectangle' && plan.data && (
          <RectanglePane
            pictures={plan.data.files.filter(({ kind }) => kind === 'picture')}
            channel={channel}
            value={settings.pictures.rectangle}
            onChange={(rectangle) => choose({ ...settings, pictures: { ...settings.pictures, rectangle } })}
          />
        )}
        {shownPane === 'plan' &&
          (haul.assets === 0 ? (
            <Empty title="The haul is empty">
              Choose assets in the library, or all that a search finds, and add them to the haul.
            </Empty>
          ) : plan.data ? (
            <PlanPane plan={plan.data} />
          ) : plan.error ? (
            <Failure text={failureText(plan.error)} onRetry={() => void plan.refetch()} />
          ) : (
            <Loading what="what will come out" />
          ))}
      </Box>
    </Box>
  );
}

function WriteForm({ request, isEmpty }: { request: HaulRequest; isEmpty: boolean }): ReactNode {
  const [, change] = useAddress();
  const { enqueueSnackbar } = useSnackbar();
  const [run, running] = useRunHaulMutation();
  const [folder, setFolder] = useState('');
  const write = async (where: string): Promise<void> => {
    const answer = await run({ ...request, folder: where });
    if (answer.error) return;
    enqueueSnackbar(`Writing “${request.name}”.`);
    change({ pane: 'written', run: String(answer.data.run), verdict: undefined });
  };
  return (
    <Box
      component="form"
      sx={{ p: 1.5, borderTop: 1, borderColor: 'divider' }}
      onSubmit={(event) => {
        event.preventDefault();
        void write(folder);
      }}
    >
      <TextField
        size="small"
        fullWidth
        label="Folder on the server"
        placeholder="/home/me/taken-out"
        value={folder}
        onChange={({ target }) => setFolder(target.value)}
        error={running.isError}
        helperText={
          running.isError
            ? failureText(running.error)
            : 'Empty, or a new one. Without it, it is kept to be fetched as a ZIP.'
        }
      />
      <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
        <Button type="submit" variant="contained" disabled={isEmpty || running.isLoading}>
          {folder.trim() === '' ? 'Write for a ZIP' : 'Write to the folder'}
        </Button>
      </Box>
    </Box>
  );
}
