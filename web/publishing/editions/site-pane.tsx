import { Button, Checkbox, FormControlLabel, TextField, Typography } from '@mui/material';
import { useState, type FormEvent, type ReactNode } from 'react';
import { siteSettingsSchema, type SiteSettings } from '../../../contract/catalogue.ts';
import { failureText } from '../../ui/api.ts';
import { formText } from '../../ui/form-text.ts';
import { Failure, Loading } from '../../ui/states.tsx';
import { usePlace } from '../../ui/use-span.ts';
import { useSaveSiteMutation, useSiteQuery } from '../api.ts';

/** How the site is called and looks, and by which rules entries come into it. */
export function SitePane(): ReactNode {
  const { title } = usePlace();
  const { data: site, error, refetch } = useSiteQuery(title.id);
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!site) return <Loading what="the site’s settings" />;
  return <SiteForm key={JSON.stringify(site)} title={title.id} site={site} />;
}

const fields = {
  name: 'What the catalogue is called',
  lead: 'A sentence below that',
  address: 'Where it is served, for feeds: https://…',
  accent: 'Colour of links on paper: #a83c14',
  accentByNight: 'Colour of links by night: #f2945f',
} as const;

function SiteForm({ title, site }: { title: number; site: SiteSettings }): ReactNode {
  const [save, { error, isLoading, isSuccess }] = useSaveSiteMutation();
  const [problem, setProblem] = useState('');
  const submit = (event: FormEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const parsed = siteSettingsSchema.safeParse({
      ...Object.fromEntries(Object.keys(fields).map((name) => [name, formText(form, name)])),
      twoPeople: form.get('twoPeople') === 'on',
    });
    const [issue] = parsed.error?.issues ?? [];
    setProblem(
      issue ? `${fields[issue.path[0] as keyof typeof fields] ?? 'The site'}: ${issue.message}.` : '',
    );
    if (parsed.success) void save({ title, site: parsed.data });
  };
  return (
    <form onSubmit={submit} noValidate style={{ display: 'grid', gap: 12 }}>
      {Object.entries(fields).map(([name, label]) => (
        <TextField
          key={name}
          name={name}
          label={label}
          size="small"
          defaultValue={site[name as keyof typeof fields]}
        />
      ))}
      <FormControlLabel
        control={<Checkbox name="twoPeople" defaultChecked={site.twoPeople} size="small" />}
        label="Two people: whoever wrote an entry last cannot approve it"
      />
      {problem && <Typography role="alert">{problem}</Typography>}
      {error && <Typography role="alert">{failureText(error)}</Typography>}
      <Button type="submit" variant="outlined" disabled={isLoading}>
        Save the site’s settings
      </Button>
      {isSuccess && <Typography role="status">Saved.</Typography>}
    </form>
  );
}
