import AddIcon from '@mui/icons-material/Add';
import { Box, Button, Tooltip, Typography } from '@mui/material';
import { visuallyHidden } from '@mui/utils';
import dayjs from 'dayjs';
import { useLayoutEffect, useRef, useState, type ReactNode } from 'react';
import { Link, useLocation, useNavigate, useSearchParams } from 'react-router';
import type { Build } from '../../../contract/builds.ts';
import { bytesText, plural } from '../../../core/figures.ts';
import { mono, serif } from '../../ui/theme.ts';
import { spanOf, spanQuery, usePlace, viewPath, type Span } from '../../ui/use-span.ts';
import { placeMarks } from './line-scale.ts';

const side = 44;
const markGap = 62;

/** The builds of the channel along a line of time. Two picked marks are a span, one alone is that build. */
export function LineOfBuilds(): ReactNode {
  const place = usePlace();
  const { builds } = place;
  const [parameters] = useSearchParams();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const span = spanOf(builds, parameters);
  const line = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const element = line.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    setWidth(element.clientWidth);
    return () => observer.disconnect();
  }, []);
  const places = placeMarks(
    builds.map(({ releasedAt }) => Date.parse(releasedAt)),
    Math.max(0, width - 2 * side),
    markGap,
  ).map((at) => at + side);

  const pick = (build: Build): void => {
    const next = afterPick(builds, span, build);
    const view = next.from
      ? pathname.endsWith('/library')
        ? 'findings'
        : (pathname.split('/')[3] ?? 'findings')
      : 'library';
    const query = new URLSearchParams(spanQuery(next));
    for (const kept of ['path', 'view']) {
      const value = parameters.get(kept);
      if (value !== null && view === pathname.split('/')[3]) query.set(kept, value);
    }
    void navigate(`${viewPath(place, view)}?${query}`);
  };
  const at = (build: Build | null): number => (build ? (places[builds.indexOf(build)] ?? 0) : 0);

  return (
    <Box
      component="section"
      aria-label="Line of builds"
      sx={{ display: 'flex', alignItems: 'stretch', borderBottom: 1, borderColor: 'divider', height: 78 }}
    >
      <Box ref={line} sx={{ position: 'relative', flex: 1, minWidth: 0 }}>
        <Box
          sx={{
            position: 'absolute',
            left: side / 2,
            right: side / 2,
            top: 33,
            borderTop: 1,
            borderColor: 'divider',
          }}
        />
        {span.from && span.to && (
          <Box
            sx={{
              position: 'absolute',
              top: 32,
              height: 3,
              bgcolor: 'primary.main',
              left: Math.min(at(span.from), at(span.to)),
              width: Math.abs(at(span.to) - at(span.from)),
            }}
          />
        )}
        {builds.map((build, index) => (
          <BuildMark
            key={build.id}
            build={build}
            left={places[index] ?? 0}
            span={span}
            onPick={() => pick(build)}
          />
        ))}
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', px: 2, gap: 2 }}>
        <SpanSentence span={span} />
        <Button component={Link} to={viewPath(place, 'new')} variant="contained" startIcon={<AddIcon />}>
          Bring in a build
        </Button>
      </Box>
    </Box>
  );
}

function BuildMark({
  build,
  left,
  span,
  onPick,
}: {
  build: Build;
  left: number;
  span: Span;
  onPick: () => void;
}): ReactNode {
  const role = build === span.to ? 'newer end' : build === span.from ? 'older end' : null;
  const title = `${build.label}, ${dayjs(build.releasedAt).format('D MMM YYYY')}: ${plural(build.files, 'file')}, ${bytesText(build.bytes)}`;
  return (
    <Tooltip title={title} describeChild>
      <Box
        component="button"
        type="button"
        aria-pressed={role !== null}
        onClick={onPick}
        sx={{
          position: 'absolute',
          left,
          top: 8,
          transform: 'translateX(-50%)',
          width: 58,
          height: 62,
          p: 0,
          border: 0,
          bgcolor: 'transparent',
          color: 'text.primary',
          cursor: 'pointer',
          font: 'inherit',
          display: 'flex',
          flexDirection: 'column',
          alignItems: 'center',
          justifyContent: 'space-between',
          '&:hover .head': { borderColor: 'primary.main' },
        }}
      >
        <span style={visuallyHidden}>Build </span>
        <Box
          component="span"
          sx={{
            fontFamily: mono,
            fontSize: '0.78rem',
            fontWeight: role ? 600 : 400,
            maxWidth: 58,
            overflow: 'hidden',
            textOverflow: 'ellipsis',
            whiteSpace: 'nowrap',
          }}
        >
          {build.label}
        </Box>
        <Box
          component="span"
          className="head"
          sx={{
            width: 15,
            height: 15,
            borderRadius: '50%',
            border: 2,
            borderColor: role ? 'primary.main' : 'text.secondary',
            bgcolor: build === span.to ? 'primary.main' : 'background.default',
          }}
        />
        <Box component="span" sx={{ fontSize: '0.72rem', color: 'text.secondary' }}>
          {dayjs(build.releasedAt).format('D MMM YY')}
        </Box>
        {role && <span style={visuallyHidden}>{`, ${role} of the span`}</span>}
      </Box>
    </Tooltip>
  );
}

function SpanSentence({ span: { from, to } }: { span: Span }): ReactNode {
  if (!to) return null;
  const days = from ? Math.abs(dayjs(to.releasedAt).diff(dayjs(from.releasedAt), 'day')) : 0;
  return (
    <Box sx={{ textAlign: 'right', whiteSpace: 'nowrap' }}>
      <Typography sx={{ fontFamily: serif, fontWeight: 600 }}>
        {from ? `${from.label} to ${to.label}` : `Build ${to.label}`}
      </Typography>
      <Typography variant="caption" color="text.secondary">
        {from ? plural(days, 'day') : 'picked alone'}
      </Typography>
    </Box>
  );
}

/** A picked mark is dropped; a new one joins, or takes the place of the nearer end. */
export function afterPick(builds: readonly Build[], { from, to }: Span, picked: Build): Span {
  const ordered = (a: Build, b: Build): Span =>
    builds.indexOf(a) < builds.indexOf(b) ? { from: a, to: b } : { from: b, to: a };
  if (!to) return { from: null, to: picked };
  if (!from) return picked === to ? { from, to } : ordered(to, picked);
  if (picked === to) return { from: null, to: from };
  if (picked === from) return { from: null, to };
  const distance = (end: Build): number => Math.abs(builds.indexOf(end) - builds.indexOf(picked));
  return distance(from) < distance(to) ? ordered(picked, to) : ordered(from, picked);
}
