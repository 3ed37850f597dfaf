import { Box, Typography, useTheme } from '@mui/material';
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
} from 'chart.js';
import type { ReactNode } from 'react';
import { Bar, Line } from 'react-chartjs-2';
import type { News } from '../../../contract/news.ts';
import { bytesText } from '../../../core/figures.ts';

Chart.register(
  BarController,
  BarElement,
  CategoryScale,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
);

/** What grew: bytes by kind before and after, and the size of the builds. */
export default function NewsCharts({ news }: { news: News }): ReactNode {
  const { palette, typography } = useTheme();
  const axis = {
    ticks: { color: palette.text.secondary, font: { family: typography.fontFamily } },
    grid: { color: palette.divider },
    border: { color: palette.divider },
  };
  const bytesAxis = {
    ...axis,
    beginAtZero: true,
    ticks: {
      ...axis.ticks,
      maxTicksLimit: 5,
      callback: (value: string | number) => bytesText(Number(value)),
    },
  };
  const tooltip = {
    callbacks: {
      label: ({ raw, dataset }: { raw: unknown; dataset: { label?: string } }) =>
        `${dataset.label ?? ''} ${bytesText(Number(raw))}`,
    },
  };
  const shared = {
    animation: false as const,
    maintainAspectRatio: false,
    plugins: { legend: { display: false }, tooltip },
  };
  return (
    <Box sx={{ display: 'grid', gap: 2 }}>
      <Box component="figure" sx={{ m: 0 }}>
        <Typography
          component="figcaption"
          variant="h2"
        >{`What grew, ${news.from} (pale) to ${news.to}`}</Typography>
        <Box sx={{ height: 32 + news.growth.length * 26 }}>
          <Bar
            aria-label={news.growth
              .map(
                ({ kind, oldBytes, newBytes }) =>
                  `${kind} ${bytesText(oldBytes)}, now ${bytesText(newBytes)}`,
              )
              .join('; ')}
            role="img"
            options={{
              ...shared,
              indexAxis: 'y',
              scales: { x: bytesAxis, y: { ...axis, grid: { display: false } } },
            }}
            data={{
              labels: news.growth.map(({ kind }) => kind),
              datasets: [
                {
                  label: news.from,
                  data: news.growth.map(({ oldBytes }) => oldBytes),
                  backgroundColor: palette.divider,
                },
                {
                  label: news.to,
                  data: news.growth.map(({ newBytes }) => newBytes),
                  backgroundColor: palette.text.primary,
                },
              ],
            }}
          />
        </Box>
      </Box>
      <Box component="figure" sx={{ m: 0 }}>
        <Typography component="figcaption" variant="h2">
          Size of the builds
        </Typography>
        <Box sx={{ height: 130 }}>
          <Line
            aria-label={news.builds.map(({ label, bytes }) => `${label} ${bytesText(bytes)}`).join('; ')}
            role="img"
            options={{ ...shared, scales: { x: axis, y: bytesAxis } }}
            data={{
              labels: news.builds.map(({ label }) => label),
              datasets: [
                {
                  label: 'size',
                  data: news.builds.map(({ bytes }) => bytes),
                  borderColor: palette.text.primary,
                  pointBackgroundColor: news.builds.map(({ label }) =>
                    label === news.to ? palette.primary.main : palette.text.primary,
                  ),
                  pointRadius: 4,
                  borderWidth: 1.5,
                },
              ],
            }}
          />
        </Box>
      </Box>
    </Box>
  );
}
