import AddIcon from '@mui/icons-material/Add';
import { Box, Button, Typography } from '@mui/material';
import { visuallyHidden } from '@mui/utils';
import dayjs from 'dayjs';
import { useLayoutEffect, useRef, useState, type ReactNode } from 'react';
import { Link, useLocation, useNavigate, useSearchParams } from 'react-router';
import type { Build } from '../../../contract/builds.ts';
import { bytesText, plural } from '../../../core/figures.ts';
import { Tip } from '../../ui/tip.tsx';
import { dayText, momentText } from '../../ui/dates.ts';
import { mono, serif } from '../../ui/theme.ts';
import { spanOf, spanQuery, usePlace, viewPath, type Span } from '../../ui/use-span.ts';
import { labelledMarks, placeMarks } from './line-scale.ts';

const side = 44;
const markGap = 62;
/** Builds that are nearer to each other are told apart by the hour. */
const twoDaysMs = 2 * 86_400_000;

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
  const picked = [span.from, span.to].flatMap((build) => (build ? [builds.indexOf(build)] : []));
  const labelled = labelledMarks(places, picked, markGap - 4);
  const isShort =
    Date.parse(builds.at(-1)?.releasedAt ?? '') - Date.parse(builds[0]?.releasedAt ?? '') < twoDaysMs;
  const gaps = places.slice(1).map((place, index) => place - (places[index] ?? 0));
  const markWidth = Math.max(10, Math.min(markGap - 4, ...gaps));
  const at = (build: Build | null): number => (build ? (places[builds.indexOf(build)] ?? 0) : 0);

  return (
    <Box
      component="section"
      aria-label="Line of builds"
      sx={{ display: 'flex', alignItems: 'stretch', borderBottom: 1, borderColor: 'divider', height: 56 }}
    >
      <Box ref={line} sx={{ position: 'relative', flex: 1, minWidth: 0 }}>
        <Box
          sx={{
            position: 'absolute',
            left: side / 2,
            right: side / 2,
            top: 27,
            borderTop: 1,
            borderColor: 'divider',
          }}
        />
        {span.from && span.to && (
          <Box
            sx={{
              position: 'absolute',
              top: 26,
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
            width={markWidth}
            isLabelled={labelled.has(index)}
            hasHours={isShort}
            span={span}
            onPick={() => pick(build)}
          />
        ))}
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', px: { xs: 1, md: 2 }, gap: { xs: 1, md: 2 } }}>
        <SpanSentence span={span} />
        <Button
          component={Link}
          to={viewPath(place, 'new')}
          variant="contained"
          aria-label="Bring in a build"
          startIcon={<AddIcon />}
          sx={{ whiteSpace: 'nowrap', '& .MuiButton-startIcon': { mr: { xs: -0.5, lg: 1 } } }}
        >
          <Box component="span" sx={{ display: { xs: 'none', lg: 'inline' } }}>
            Bring in a build
          </Box>
        </Button>
      </Box>
    </Box>
  );
}

function BuildMark({
  build,
  left,
  width,
  isLabelled,
  hasHours,
  span,
  onPick,
}: {
  build: Build;
  left: number;
  width: number;
  isLabelled: boolean;
  hasHours: boolean;
  span: Span;
  onPick: () => void;
}): ReactNode {
  const role = build === span.to ? 'newer end' : build === span.from ? 'older end' : null;
  const title = `${build.label}, ${hasHours ? momentText(build.releasedAt) : dayText(build.releasedAt)}: ${plural(build.files, 'file')}, ${bytesText(build.bytes)}`;
  return (
    <Tip title={title} describeChild>
      <Box
        component="button"
        type="button"
        aria-pressed={role !== null}
        onClick={onPick}
        sx={{
          position: 'absolute',
          left,
          top: 1,
          transform: 'translateX(-50%)',
          width,
          height: 54,
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
        <span style={visuallyHidden}>{isLabelled ? 'Build ' : `Build ${build.label} `}</span>
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
            visibility: isLabelled ? 'visible' : 'hidden',
          }}
        >
          {build.label}
        </Box>
        <Box
          component="span"
          className="head"
          sx={{
            width: 13,
            height: 13,
            borderRadius: '50%',
            border: 2,
            borderColor: role ? 'primary.main' : 'text.secondary',
            bgcolor: build === span.to ? 'primary.main' : 'background.default',
          }}
        />
        <Box
          component="span"
          sx={{
            fontSize: '0.72rem',
            color: 'text.secondary',
            whiteSpace: 'nowrap',
            visibility: isLabelled ? 'visible' : 'hidden',
          }}
        >
          {dayjs(build.releasedAt).format(hasHours ? 'HH:mm' : 'D MMM YY')}
        </Box>
        {role && <span style={visuallyHidden}>{`, ${role} of the span`}</span>}
      </Box>
    </Tip>
  );
}

function SpanSentence({ span: { from, to } }: { span: Span }): ReactNode {
  if (!to) return null;
  return (
    <Box sx={{ textAlign: 'right', whiteSpace: 'nowrap', display: { xs: 'none', sm: 'block' } }}>
      <Typography sx={{ fontFamily: serif, fontWeight: 600 }}>
        {from ? `${from.label} to ${to.label}` : `Build ${to.label}`}
      </Typography>
      <Typography variant="caption" color="text.secondary">
        {from ? timeBetween(from, to) : 'picked alone'}
      </Typography>
    </Box>
  );
}

/** In the largest unit that says something: builds may be minutes apart. */
function timeBetween(from: Build, to: Build): string {
  const minutes = Math.abs(dayjs(to.releasedAt).diff(dayjs(from.releasedAt), 'minute'));
  if (minutes < 60) return plural(minutes, 'minute');
  if (minutes < 48 * 60) return plural(Math.round(minutes / 60), 'hour');
  return plural(Math.round(minutes / 1440), 'day');
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
