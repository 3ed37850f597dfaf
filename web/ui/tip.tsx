import { lazy, Suspense, type ReactElement, type ReactNode } from 'react';

const Tooltip = lazy(() => import('@mui/material/Tooltip'));

/** A remark on what is hovered or has the focus. Its script comes after the page: nobody waits for it to begin. */
export function Tip({
  title,
  describeChild = false,
  children,
}: {
  title: string;
  /** The remark is added to the child's own name, rather than being its name. */
  describeChild?: boolean;
  children: ReactElement;
}): ReactNode {
  return (
    <Suspense fallback={children}>
      <Tooltip title={title} describeChild={describeChild}>
        {children}
      </Tooltip>
    </Suspense>
  );
}
