import type { ReactNode } from 'react';

/** Shapes about the middle, ten units wide, told apart without colour: one for each class of placement, then again. */
const shapes = [
  'M5 0A5 5 0 1 1 -5 0A5 5 0 1 1 5 0Z',
  'M0 -6L5.5 4H-5.5Z',
  'M-4.5 -4.5H4.5V4.5H-4.5Z',
  'M0 -6.5L6.5 0L0 6.5L-6.5 0Z',
  'M-1.7 -6H1.7V-1.7H6V1.7H1.7V6H-1.7V1.7H-6V-1.7H-1.7Z',
  'M0 6L5.5 -4H-5.5Z',
  'M-6 -2H6V2H-6Z',
  'M-2 -6H2V6H-2Z',
] as const;

export function classShape(index: number): string {
  return shapes[index % shapes.length] ?? shapes[0];
}

/** The shape as it stands in front of the class's name. */
export function ClassMark({ index }: { index: number }): ReactNode {
  return (
    <svg
      viewBox="-8 -8 16 16"
      width="0.95em"
      height="0.95em"
      aria-hidden
      style={{ marginRight: '0.35em', verticalAlign: '-0.1em' }}
    >
      <path d={classShape(index)} fill="currentColor" />
    </svg>
  );
}
