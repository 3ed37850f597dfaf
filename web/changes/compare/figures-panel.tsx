import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import type { ComparedStates } from '../../../contract/assets.ts';
import type { Comparison, NodeChanges } from '../../../contract/comparisons.ts';
import { bytesText, secondsText } from '../../../core/figures.ts';
import { lengthText, type LengthUnit } from '../../../core/kinds/comparing.ts';
import { describeMove, describePose } from '../../../core/kinds/model/compare/describe-pose.ts';

/** Figures of both, and what the comparison found out beyond its sentence. */
export function FiguresPanel({ states }: { states: ComparedStates }): ReactNode {
  const { comparison, old, new: now } = states;
  const size = { name: 'bytes', old: bytesText(old.size), new: bytesText(now.size) };
  return (
    <>
      <Box
        component="table"
        sx={{
          width: '100%',
          borderCollapse: 'collapse',
          fontSize: '0.86rem',
          '& th': { textAlign: 'left', fontWeight: 400, color: 'text.secondary', pr: 1 },
          '& td, & th': {
            borderBottom: 1,
            borderColor: 'divider',
            py: 0.25,
            verticalAlign: 'top',
            overflowWrap: 'anywhere',
          },
        }}
      >
        <tbody>
          {[...(comparison?.figures ?? []), size].map(({ name, old: before, new: after }) => (
            <tr key={name}>
              <th scope="row">{name}</th>
              <td>{before !== '' && after !== '' ? `${before} → ${after}` : before || after}</td>
            </tr>
          ))}
        </tbody>
      </Box>
      {comparison?.detail && <Detail detail={comparison.detail} />}
    </>
  );
}

function nodeItems(
  { added, gone, reparented, moved, renamed }: NodeChanges,
  lengths: LengthUnit,
): [string, string][] {
  return [
    ...added.map((name): [string, string] => ['added', name]),
    ...gone.map((name): [string, string] => ['gone', name]),
    ...renamed.map(({ from, to }): [string, string] => ['renamed', `${from} → ${to}`]),
    ...reparented.map(({ bone, from, to }): [string, string] => [
      'hung',
      `${bone}: ${from || 'nothing'} → ${to || 'nothing'}`,
    ]),
    ...moved
      .slice(0, 20)
      .map(({ bone, metres, degrees }): [string, string] => [
        'moved',
        `${bone}, ${describeMove(metres, degrees, lengths)}`,
      ]),
  ];
}

function Detail({ detail }: { detail: NonNullable<Comparison['detail']> }): ReactNode {
  switch (detail.kind) {
    case 'model':
      return (
        <>
          <List
            title="Parts"
            items={detail.parts.map(({ name, status, greatestMetres, oldTriangles, newTriangles }) => [
              status,
              `${name}${status === 'changed' && greatestMetres !== null ? `, up to ${lengthText(greatestMetres, detail.lengths)} off` : ''}${oldTriangles !== null && newTriangles !== null && oldTriangles !== newTriangles ? `, ${oldTriangles.toLocaleString('en')} → ${newTriangles.toLocaleString('en')} triangles` : ''}`,
            ])}
          />
          <List title="Bones" items={nodeItems(detail.bones, detail.lengths)} />
          <List title="Nodes without a shape" items={nodeItems(detail.nodes, detail.lengths)} />
          <List
            title="Clips"
            items={detail.clips.map((clip) => [
              clip.status,
              [clip.name, describePose(clip, detail.lengths)].filter(Boolean).join(': '),
            ])}
          />
        </>
      );
    case 'sound':
      return (
        <List
          title="Where it is other"
          items={detail.ranges.map(({ from, to }) => ['other', `${secondsText(from)} to ${secondsText(to)}`])}
        />
      );
    case 'picture':
      return (
        <List
          title="Where it differs"
          items={detail.boxes.map(({ x, y, width, height }) => ['box', `${x}, ${y}: ${width} × ${height}`])}
        />
      );
    case 'map':
      return (
        <>
          <List
            title="By class"
            items={Object.entries(detail.classes).map(([name, counts]) => [
              name,
              Object.entries(counts)
                .map(([status, count]) => `${count} ${status}`)
                .join(', '),
            ])}
          />
          <List
            title="Models placed for the first time"
            items={detail.firstModels.slice(0, 30).map((model) => ['new', model])}
          />
          <List
            title="Models placed no more"
            items={detail.goneModels.slice(0, 30).map((model) => ['gone', model])}
          />
          <List
            title="Tiles"
            items={detail.tiles.map(({ layer, changed }) => [
              layer,
              `${changed.toLocaleString('en')} set otherwise`,
            ])}
          />
        </>
      );
    case 'text':
      return (
        <List title="Untranslated" items={detail.untranslated.slice(0, 40).map((key) => ['empty', key])} />
      );
  }
}

function List({ title, items }: { title: string; items: readonly (readonly [string, string])[] }): ReactNode {
  if (items.length === 0) return null;
  return (
    <Box sx={{ mt: 1.5 }}>
      <Typography variant="h2">{title}</Typography>
      <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0, fontSize: '0.86rem' }}>
        {items.map(([mark, text]) => (
          <Box
            component="li"
            key={`${mark} ${text}`}
            sx={{ display: 'flex', gap: 1, overflowWrap: 'anywhere' }}
          >
            <Box component="span" sx={{ width: 64, flexShrink: 0, color: 'text.secondary' }}>
              {mark}
            </Box>
            <span style={{ minWidth: 0 }}>{text}</span>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
