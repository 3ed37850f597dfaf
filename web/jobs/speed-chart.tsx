import { useTheme } from '@mui/material';
import { CategoryScale, Chart, Filler, LineElement, LinearScale, PointElement } from 'chart.js';
import type { ReactNode } from 'react';
import { Line } from 'react-chartjs-2';
import type { Job } from '../../contract/work.ts';
import { bytesText } from '../../core/figures.ts';

Chart.register(CategoryScale, LinearScale, LineElement, PointElement, Filler);

/** Bytes a second over a job's time. */
export default function SpeedChart({ speeds }: { speeds: Job['speeds'] }): ReactNode {
  const { palette, typography } = useTheme();
  const fastest = Math.max(...speeds.map(([, speed]) => speed));
  const seconds = speeds.at(-1)?.[0] ?? 0;
  return (
    <div style={{ height: 92 }}>
      <Line
        role="img"
        aria-label={`Speed over ${Math.round(seconds)} seconds, at most ${bytesText(fastest)} a second`}
        data={{
          labels: speeds.map(([at]) => `${Math.round(at)} s`),
          datasets: [
            {
              data: speeds.map(([, speed]) => speed),
              borderColor: palette.primary.main,
              backgroundColor: palette.plate,
              fill: true,
              borderWidth: 1.5,
              pointRadius: 0,
              stepped: true,
            },
          ],
        }}
        options={{
          animation: false,
          maintainAspectRatio: false,
          events: [],
          scales: {
            x: {
              grid: { display: false },
              ticks: {
                maxTicksLimit: 6,
                maxRotation: 0,
                color: palette.text.secondary,
                font: { family: typography.fontFamily ?? '' },
              },
            },
            y: {
              beginAtZero: true,
              grid: { color: palette.divider },
              ticks: {
                maxTicksLimit: 4,
                color: palette.text.secondary,
                font: { family: typography.fontFamily ?? '' },
                callback: (value) => `${bytesText(Number(value))}/s`,
              },
            },
          },
        }}
      />
    </div>
  );
}
