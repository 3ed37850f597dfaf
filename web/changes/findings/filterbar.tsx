import { Box, Chip, NativeSelect } from '@mui/material';
import type { ReactNode } from 'react';
import type { FindingsPage, FindingsQuery } from '../../../contract/findings.ts';
import { kindSchema, statusSchema } from '../../../contract/kinds.ts';
import { ProgressLine } from '../../ui/progress-line.tsx';
import { TextFilter } from '../../ui/text-filter.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { PassProgress, SpanLine } from './span-line.tsx';
import { StatusWord } from './status-glyph.tsx';
import type { Filters, View } from './use-filters.ts';

interface Props {
  query: FindingsQuery;
  page: FindingsPage | undefined;
  view: View;
  isFetching: boolean;
  /** Whether the bar that marks many at once is open, without a selection. */
  isMarkingMany: boolean;
  onMarkMany: () => void;
  /** Orders the list anew by facts that came in; null where there are none. */
  onNewFacts?: (() => void) | null;
  set: Filters['set'];
}

function foldedText({ folds }: FindingsPage): string {
  const hidden = folds.reduce((sum, { hides }) => sum + hides, 0);
  return hidden === 0 ? '' : `${hidden.toLocaleString('en')} folded away, `;
}

/** Statuses and kinds with their counts, as labels that are switched on and off. */
export function Filterbar({
  query,
  page,
  view,
  isFetching,
  isMarkingMany,
  onMarkMany,
  onNewFacts = null,
  set,
}: Props): ReactNode {
  const toggle = (name: 'status' | 'kind', value: string): void => {
    const chosen = new Set(query[name].split(',').filter(Boolean));
    if (!chosen.delete(value)) chosen.add(value);
    set({ [name]: [...chosen].join(',') });
  };
  const statuses = statusSchema.options.filter(
    (status) => (page?.summary[status] ?? 0) > 0 || query.status.includes(status),
  );
  const kinds = kindSchema.options.filter(
    (kind) => (page?.kinds[kind] ?? 0) > 0 || query.kind.split(',').includes(kind),
  );
  return (
    <Box
      component="section"
      aria-label="Filters"
      sx={{ borderBottom: 1, borderColor: 'divider', position: 'relative' }}
    >
      <Box
        sx={{
          display: 'flex',
          flexWrap: { xs: 'nowrap', md: 'wrap' },
          overflowX: { xs: 'auto', md: 'visible' },
          columnGap: 0.5,
          '& > *': { flexShrink: 0 },
          px: { xs: 1, md: 2 },
          alignItems: 'center',
          minHeight: 34,
        }}
      >
        {statuses.map((status) => (
          <Toggle
            key={status}
            isOn={query.status.split(',').includes(status)}
            onClick={() => toggle('status', status)}
          >
            <StatusWord status={status} rest={` ${(page?.summary[status] ?? 0).toLocaleString('en')}`} />
          </Toggle>
        ))}
        <Box sx={{ borderLeft: 1, borderColor: 'divider', height: 22, mx: 0.5 }} />
        {kinds.map((kind) => (
          <Toggle key={kind} isOn={query.kind.split(',').includes(kind)} onClick={() => toggle('kind', kind)}>
            {`${kind} ${(page?.kinds[kind] ?? 0).toLocaleString('en')}`}
          </Toggle>
        ))}
        <Box
          role="status"
          sx={{
            color: 'text.secondary',
            fontSize: '0.85rem',
            flex: { xs: '0 0 auto', md: 1 },
            minWidth: 200,
            textAlign: 'right',
            overflow: 'hidden',
            textOverflow: 'ellipsis',
            whiteSpace: 'nowrap',
          }}
        >
          {page &&
            `${page.total.toLocaleString('en')} shown, ${foldedText(page)}${page.summary.unchanged.toLocaleString('en')} unchanged${page.summary.leftOut > 0 ? `, ${page.summary.leftOut.toLocaleString('en')} left out of one build` : ''}`}
        </Box>
      </Box>
      <Box
        sx={{
          display: 'flex',
          flexWrap: 'wrap',
          columnGap: 1.25,
          px: { xs: 1, md: 2 },
          pb: 0.5,
          alignItems: 'center',
          minHeight: 36,
        }}
      >
        <TextFilter value={query.text} onChange={(text) => set({ text })} />
        <Choice
          label="Marks"
          value={query.mark}
          options={[
            ['', 'any mark'],
            ['open', `open ${page?.marks.open ?? ''}`],
            ['kept', `kept ${page?.marks.kept ?? ''}`],
            ['aside', `set aside ${page?.marks.aside ?? ''}`],
            ['done', `done ${page?.marks.done ?? ''}`],
            ...((page?.carried ?? 0) > 0 || query.mark === 'carried'
              ? ([['carried', `left open before ${page?.carried ?? ''}`]] as [string, string][])
              : []),
          ]}
          onChange={(mark) => set({ mark })}
        />
        <Choice
          label="Order"
          value={query.sort}
          options={[
            ['path', 'by path'],
            ['news', 'most news first'],
            ['extent', 'most changed first'],
            ['size', 'largest first'],
            ['status', 'by status'],
            ['kind', 'by kind'],
          ]}
          onChange={(sort) => set({ sort })}
        />
        <People query={query} page={page} set={set} />
        <Choice
          label="Noise"
          value={query.noise}
          options={[
            ['', 'without noise'],
            ['all', 'with noise'],
            ...(page?.folds ?? [])
              .filter(({ hides, key }) => hides > 0 || key === query.noise)
              .map(({ key, name, hides }): [string, string] => [
                key,
                `${hides.toLocaleString('en')}: ${name}`,
              ]),
          ]}
          onChange={(noise) => set({ noise })}
        />
        {chipsOf(query).map(({ name, label }) => (
          <Chip
            key={name}
            size="small"
            variant="outlined"
            label={label}
            onDelete={() => set({ [name]: '' })}
            sx={{ borderRadius: 0.5, maxWidth: 260 }}
          />
        ))}
        {page && <SpanLine page={page} query={query} onNewFacts={onNewFacts} />}
        {page && page.total > 0 && (
          <Toggle isOn={isMarkingMany} onClick={onMarkMany}>
            Mark many
          </Toggle>
        )}
        <Box sx={{ flex: 1 }} />
        {page && <PassProgress page={page} />}
        <Box role="group" aria-label="View" sx={{ display: 'flex', gap: 0.5 }}>
          <Toggle isOn={view === 'sheet'} onClick={() => set({ view: '' })}>
            Contact sheet
          </Toggle>
          <Toggle isOn={view === 'table'} onClick={() => set({ view: 'table' })}>
            Table
          </Toggle>
        </Box>
      </Box>
      {isFetching && (
        <ProgressLine
          label="Loading findings"
          sx={{ position: 'absolute', left: 0, bottom: 0, width: '100%', height: 2 }}
        />
      )}
    </Box>
  );
}

/** Filters that are set, as they are taken away one by one; statuses and kinds are switched where they stand. */
function chipsOf(query: FindingsQuery): { name: 'text' | 'folder' | 'assignee' | 'label'; label: string }[] {
  const chips = [
    { name: 'text', label: `“${query.text}”`, value: query.text },
    { name: 'folder', label: `in ${query.folder}`, value: query.folder },
    { name: 'assignee', label: `of ${query.assignee}`, value: query.assignee },
    { name: 'label', label: query.label, value: query.label },
  ] as const;
  return chips.filter(({ value }) => value !== '');
}

/** Whose findings and which labels are shown, where somebody gave any. */
function People({ query, page, set }: Pick<Props, 'query' | 'page' | 'set'>): ReactNode {
  const people = page?.people ?? [];
  const labels = page?.labels ?? [];
  return (
    <>
      {(people.length > 0 || query.assignee !== '') && (
        <Choice
          label="Assignee"
          value={query.assignee}
          options={[
            ['', 'anybody’s'],
            ...[...new Set([...people, query.assignee])]
              .filter(Boolean)
              .map((name): [string, string] => [name, name]),
          ]}
          onChange={(assignee) => set({ assignee })}
        />
      )}
      {(labels.length > 0 || query.label !== '') && (
        <Choice
          label="Label"
          value={query.label}
          options={[
            ['', 'any label'],
            ...[...new Set([...labels, query.label])]
              .filter(Boolean)
              .map((label): [string, string] => [label, label]),
          ]}
          onChange={(label) => set({ label })}
        />
      )}
    </>
  );
}

function Choice({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: string;
  options: [string, string][];
  onChange: (value: string) => void;
}): ReactNode {
  return (
    <NativeSelect
      value={value}
      inputProps={{ 'aria-label': label }}
      onChange={({ target }) => onChange(target.value)}
      sx={{ fontSize: '0.9rem', maxWidth: 150 }}
    >
      {options.map(([option, text]) => (
        <option key={option} value={option}>
          {text}
        </option>
      ))}
    </NativeSelect>
  );
}
