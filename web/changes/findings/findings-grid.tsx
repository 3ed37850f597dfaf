import type { KeyboardEvent, ReactNode } from 'react';
import type { Finding } from '../../../contract/findings.ts';
import { ItemGrid } from '../../lists/item-grid.tsx';
import type { Extent } from '../../lists/steps.ts';
import type { Selection } from '../../lists/use-selection.ts';
import { FindingCard, FindingRow, cardHeight, cardWidth, rowHeight } from './finding-items.tsx';
import type { View } from './use-filters.ts';

interface Props {
  view: View;
  total: number;
  at: (index: number) => Finding | undefined;
  selection: Selection;
  onOpen: () => void;
  onShown: (first: number, last: number) => void;
  onKeyDown: (event: KeyboardEvent, extent: Extent) => void;
}

/** Findings as contact sheet or table. */
export function FindingsGrid({ view, total, at, selection, onOpen, onShown, onKeyDown }: Props): ReactNode {
  const isTable = view === 'table';
  const Item = isTable ? FindingRow : FindingCard;
  return (
    <ItemGrid
      label="Findings"
      pattern="listbox"
      count={total}
      itemWidth={isTable ? null : cardWidth}
      itemHeight={isTable ? rowHeight : cardHeight}
      active={selection.active}
      activeId={`finding-${selection.active}`}
      onShown={onShown}
      onKeyDown={onKeyDown}
      renderItem={(index) => {
        const finding = at(index);
        return (
          <Item
            finding={finding}
            index={index}
            total={total}
            isSelected={index === selection.active}
            isChosen={finding !== undefined && selection.paths.has(finding.path)}
            onSelect={(isFurther) => (isFurther ? void selection.extendTo(index) : selection.moveTo(index))}
            onOpen={onOpen}
          />
        );
      }}
    />
  );
}
