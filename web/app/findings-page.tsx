import type { ReactNode } from 'react';
import { FindingsView } from '../changes/findings/findings-view.tsx';
import { useStartEntry } from '../publishing/use-start-entry.ts';

/** Findings, from which entries of the catalogue are begun. */
export function FindingsPage(): ReactNode {
  const { start } = useStartEntry();
  return <FindingsView onEntry={start} />;
}
