import { memo, type MouseEvent, type ReactNode } from 'react';
import { Link } from 'react-router';
import { PathText, nameOf } from '../ui/path-text.tsx';
import { PlatedPreview } from './plated-preview.tsx';
import type { LibraryAsset } from './use-contents.ts';

/** What may be done with an asset of a list; the same functions for as long as the list is there. */
export interface ItemActions {
  point: (event: MouseEvent, index: number, path: string) => void;
  toggle: (index: number, path: string) => void;
  open: (index: number) => void;
}

/** How cards look, said once for hundreds of them. */
export const cardsLook = {
  '& .card': { flex: 1, p: 0.5, minWidth: 0 },
  '& .card-frame': {
    ...{ height: '100%', border: 1, borderColor: 'divider', bgcolor: 'background.paper' },
    ...{ display: 'flex', flexDirection: 'column', position: 'relative' },
  },
  '& .card[aria-selected="true"] .card-frame': { borderColor: 'primary.main' },
  '& .card-tick': {
    ...{ position: 'absolute', top: 4, right: 4, width: 18, height: 18, m: 0, accentColor: 'var(--accent)' },
  },
  '& .card-words': { px: 0.75, py: 0.25, minWidth: 0, lineHeight: 1.2 },
  '& .card-words a': { color: 'inherit', textDecoration: 'none', '&:hover': { textDecoration: 'underline' } },
  '& .card-figure': {
    ...{ color: 'text.secondary', fontSize: '0.75rem', lineHeight: 1.2 },
    ...{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
  },
} as const;

/** An asset on a contact sheet. Two hundred are drawn at once: it is made of plain elements, and anew only where it is another. */
export const AssetCard = memo(function AssetCard({
  asset,
  index,
  to,
  figure,
  isActive,
  isChosen,
  actions,
}: {
  asset: LibraryAsset;
  index: number;
  to: string;
  figure: string;
  isActive: boolean;
  isChosen: boolean;
  actions: ItemActions;
}): ReactNode {
  const { path } = asset;
  return (
    <div
      className="card"
      role="gridcell"
      id={`row-${index}`}
      aria-selected={isChosen}
      onClick={(event) => actions.point(event, index, path)}
      onDoubleClick={() => actions.open(index)}
    >
      <div className="card-frame" data-active={isActive}>
        <PlatedPreview of={asset} height={112} />
        <input
          className="card-tick"
          type="checkbox"
          checked={isChosen}
          tabIndex={-1}
          aria-label={`Choose ${nameOf(path)}`}
          onClick={(event) => event.stopPropagation()}
          onChange={() => actions.toggle(index, path)}
        />
        <div className="card-words">
          <Link to={to} tabIndex={-1}>
            <PathText path={nameOf(path)} />
          </Link>
          <div className="card-figure">{figure}</div>
        </div>
      </div>
    </div>
  );
});
