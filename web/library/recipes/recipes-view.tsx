import { paneRow } from '../../ui/side-pane.ts';
import { Box, Button, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useState, type ReactNode } from 'react';
import { placementRecipeSchema, type PlacementRecipe } from '../../../contract/recipes.ts';
import { failureText } from '../../ui/api.ts';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { usePlace, useSpan } from '../../ui/use-span.ts';
import { useRecipesQuery, useSaveRecipesMutation } from './api.ts';
import { RecipeForm } from './recipe-form.tsx';
import { TrialPane } from './trial-pane.tsx';

const fresh = (): PlacementRecipe =>
  placementRecipeSchema.parse({
    name: 'New recipe',
    files: '*.csv',
    form: 'csv',
    model: 'model',
    position: ['x', 'y', 'z'],
  });

/** How a title's placement tables are written, tried at once on a file of the build. */
export function RecipesView(): ReactNode {
  const { title, channel } = usePlace();
  const span = useSpan();
  const { enqueueSnackbar } = useSnackbar();
  const { data: state, error, refetch } = useRecipesQuery(title.id);
  const [save, { isLoading: isSaving }] = useSaveRecipesMutation();
  const [at, setAt] = useState(0);
  const [edited, setEdited] = useState<PlacementRecipe | null>(null);
  const [path, setPath] = useState('');
  const build = span.to?.label ?? '';
  if (build === '') return <Empty title="No build yet">A recipe is tried on a file of a build.</Empty>;
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!state) return <Loading what="the recipes" />;
  const { recipes, revision } = state;
  const shown = edited ?? recipes[at] ?? null;
  const choose = (place: number): void => {
    setAt(place);
    setEdited(null);
    setPath('');
  };
  const send = async (next: PlacementRecipe[], said: string): Promise<void> => {
    const answer = await save({ titleId: title.id, recipes: next, revision });
    if (answer.error) {
      enqueueSnackbar(failureText(answer.error), { variant: 'error' });
      void refetch();
      return;
    }
    setEdited(null);
    enqueueSnackbar(`${said} All builds are being looked through with it.`);
  };
  const isNew = at >= recipes.length;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box
        sx={{
          px: 2,
          py: 0.75,
          borderBottom: 1,
          borderColor: 'divider',
          display: 'flex',
          gap: 1,
          alignItems: 'baseline',
          flexWrap: 'wrap',
        }}
      >
        <Typography variant="h1" sx={{ mr: 2 }}>
          Placement recipes
        </Typography>
        {recipes.map(({ name }, place) => (
          <Toggle key={name} isOn={place === at} onClick={() => choose(place)}>
            {name}
          </Toggle>
        ))}
        <Button
          onClick={() => {
            choose(recipes.length);
            setEdited(fresh());
          }}
        >
          New recipe
        </Button>
        <Box sx={{ ml: 'auto', display: 'flex', gap: 1 }}>
          {shown && !isNew && (
            <Button
              disabled={isSaving}
              onClick={() =>
                void send(
                  recipes.filter((_, place) => place !== at),
                  'The recipe is gone.',
                ).then(() => choose(0))
              }
            >
              Remove
            </Button>
          )}
          <Button
            variant="outlined"
            disabled={edited === null || isSaving}
            onClick={() =>
              edited &&
              void send(
                isNew
                  ? [...recipes, edited]
                  : recipes.map((recipe, place) => (place === at ? edited : recipe)),
                'The recipe is saved.',
              )
            }
          >
            Save for this title
          </Button>
        </Box>
      </Box>
      {shown === null ? (
        <Empty title="No recipe yet">
          A recipe says of a table of placements which field is the model, the position, the rotation. It is
          written once for a title, tried on a file, and holds for all builds.
        </Empty>
      ) : (
        <Box sx={paneRow}>
          <Box
            sx={{
              width: { xs: 'auto', md: 400, lg: 470 },
              flexShrink: 0,
              overflow: 'auto',
              borderRight: { xs: 0, md: 1 },
              borderColor: { md: 'divider' },
            }}
          >
            <RecipeForm recipe={shown} onChange={setEdited} />
          </Box>
          <TrialPane where={{ channel: channel.id, build }} recipe={shown} path={path} onPath={setPath} />
        </Box>
      )}
    </Box>
  );
}
