import { Box, MenuItem, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { haulSettingsSchema, type HaulSettings } from '../../contract/haul-settings.ts';
import { ProfileChoice } from './profile-choice.tsx';
import { groups, type Choice } from './settings-choices.ts';

/** With what the command line has set beside. */
function optionsOf({ group, name, options }: Choice, settings: HaulSettings): Choice['options'] {
  const value = String((settings[group] as Record<string, unknown>)[name]);
  return options.some(([known]) => known === value) ? options : [...options, [value, value]];
}

/** A setting that is typed: it holds when its field is left, or with Enter, and says what is wrong with it. */
function TypedSetting({
  choice: { group, name, label, hint },
  settings,
  onSet,
}: {
  choice: Choice;
  settings: HaulSettings;
  onSet: (text: string) => void;
}): ReactNode {
  const kept = String((settings[group] as Record<string, unknown>)[name]);
  const [typed, setTyped] = useState<string | null>(null);
  const [problem, setProblem] = useState('');
  const save = (): void => {
    if (typed === null || typed === kept) return;
    const isNumber = typeof (settings[group] as Record<string, unknown>)[name] === 'number';
    const parsed = haulSettingsSchema.safeParse({
      ...settings,
      [group]: { ...settings[group], [name]: isNumber ? Number(typed || NaN) : typed },
    });
    setProblem(parsed.success ? '' : (parsed.error.issues[0]?.message ?? ''));
    if (!parsed.success) return;
    setTyped(null);
    onSet(typed);
  };
  return (
    <TextField
      size="small"
      label={label}
      value={typed ?? kept}
      error={problem !== ''}
      helperText={problem || hint}
      sx={hint ? { gridColumn: '1 / -1' } : {}}
      onChange={({ target }) => setTyped(target.value)}
      onBlur={save}
      onKeyDown={({ key }) => {
        if (key === 'Enter') save();
      }}
    />
  );
}

/** How a haul is written: each change holds at once. */
export function SettingsPanel({
  settings,
  onChange,
}: {
  settings: HaulSettings;
  onChange: (settings: HaulSettings) => void;
}): ReactNode {
  const set = ({ group, name }: Choice, text: string): void => {
    const isNumber = typeof (settings[group] as Record<string, unknown>)[name] === 'number';
    const value = text === 'true' ? true : text === 'false' ? false : isNumber ? Number(text) : text;
    onChange({ ...settings, [group]: { ...settings[group], [name]: value } });
  };
  return (
    <Box component="section" aria-label="How it is written" sx={{ p: 1.5 }}>
      <ProfileChoice settings={settings} onChange={onChange} />
      {groups.map(({ title, choices }) => (
        <Box key={title} component="fieldset" sx={{ border: 0, p: 0, m: 0, mt: 1.5 }}>
          <Typography component="legend" variant="h2" sx={{ fontSize: '0.95rem', p: 0, mb: 0.75 }}>
            {title}
          </Typography>
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
            {choices
              .filter(({ isOf }) => isOf?.(settings) ?? true)
              .map((choice) =>
                choice.options.length === 0 ? (
                  <TypedSetting
                    key={`${choice.group} ${choice.name}`}
                    choice={choice}
                    settings={settings}
                    onSet={(value) => set(choice, value)}
                  />
                ) : (
                  <TextField
                    key={`${choice.group} ${choice.name}`}
                    select
                    size="small"
                    label={choice.label}
                    value={String((settings[choice.group] as Record<string, unknown>)[choice.name])}
                    onChange={({ target }) => set(choice, target.value)}
                  >
                    {optionsOf(choice, settings).map(([value, label]) => (
                      <MenuItem key={value} value={value} dense>
                        {label}
                      </MenuItem>
                    ))}
                  </TextField>
                ),
              )}
          </Box>
        </Box>
      ))}
      <TextField
        select
        size="small"
        fullWidth
        label="Folders"
        sx={{ mt: 1.5 }}
        value={settings.folders}
        onChange={({ target }) => onChange({ ...settings, folders: target.value as HaulSettings['folders'] })}
      >
        <MenuItem dense value="as in the build">
          As in the build
        </MenuItem>
        <MenuItem dense value="one folder">
          One folder for all
        </MenuItem>
        <MenuItem dense value="by family">
          A folder for each family
        </MenuItem>
      </TextField>
    </Box>
  );
}
