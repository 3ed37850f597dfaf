import { Box, Button, Checkbox, Typography } from '@mui/material';
import { useMemo, useState, type ReactNode } from 'react';
import type { SetUp } from '../../../contract/arrangements.ts';
import { plural } from '../../../core/figures.ts';
import { variantGroups } from '../../../core/kinds/model/parts/variant-sets.ts';
import { TreeList } from '../../lists/tree-list.tsx';
import { TextFilter } from '../../ui/text-filter.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import type { Look } from '../engine/look.ts';
import type { PartEntry } from '../engine/model-parts.ts';
import { MovePart } from './move-part.tsx';
import { partRows, type PartRow } from './part-tree.ts';
import { partKey } from './set-up.ts';
import { VariantsList } from './variants-list.tsx';

/** Parts of a model: searched, shown, hidden, looked at alone. */
export function PartsPanel({
  parts,
  look,
  setUp,
  onLook,
  onSetUp,
  onFit,
}: {
  parts: readonly PartEntry[];
  look: Look;
  setUp: SetUp;
  /** Null where nothing is kept of what is set up. */
  onSetUp: ((change: Partial<SetUp>) => void) | null;
  onLook: (change: Partial<Look>) => void;
  onFit: (part: number) => void;
}): ReactNode {
  const [words, setWords] = useState('');
  const [closed, setClosed] = useState<ReadonlySet<string>>(new Set());
  const rows = useMemo(() => partRows(parts, words, closed), [parts, words, closed]);
  const helpers = useMemo(() => parts.filter(({ helper }) => helper !== null), [parts]);
  const groups = useMemo(() => variantGroups(parts.filter(({ helper }) => helper === null)), [parts]);
  const marked = parts.find(({ id }) => id === look.part) ?? null;
  const setShown = (ids: readonly number[], isShown: boolean): void => {
    const hidden = new Set(look.hidden);
    for (const id of ids)
      if (isShown) hidden.delete(id);
      else hidden.add(id);
    onLook({ hidden });
  };
  const leftOut = new Set(setUp.leftOut);
  const isLeftOut = marked !== null && leftOut.has(partKey(marked));
  /** Parts that the words find, where there are words: they are moved together. */
  const found = words.trim() === '' ? [] : rows.flatMap(({ part }) => (part ? [part] : []));
  const areHelpersHidden = helpers.every(({ id }) => look.hidden.has(id));
  const shown = parts.filter(({ id }) => !look.hidden.has(id));
  return (
    <>
      <Box sx={{ p: 1, display: 'grid', gap: 0.75 }}>
        <TextFilter value={words} onChange={setWords} label="Words in names" name="Search the parts" />
        <Typography variant="body2" role="status">
          {`${shown.length.toLocaleString('en')} of ${plural(parts.length, 'part')}, ${plural(
            shown.reduce((sum, { triangles }) => sum + triangles, 0),
            'triangle',
          )} shown`}
        </Typography>
        {helpers.length > 0 && (
          <Typography variant="body2" color="text.secondary">
            {`${plural(helpers.length, 'helper shape')} ${areHelpersHidden ? 'hidden' : 'among them'}: ${kindsOf(helpers)}. `}
            <Button
              size="small"
              sx={{ p: 0, minWidth: 0, verticalAlign: 'baseline' }}
              onClick={() =>
                setShown(
                  helpers.map(({ id }) => id),
                  areHelpersHidden,
                )
              }
            >
              {areHelpersHidden ? 'Show them' : 'Hide them'}
            </Button>
          </Typography>
        )}
        <VariantsList
          {...{ groups, parts }}
          hidden={look.hidden}
          variants={setUp.variants}
          onHidden={(hidden) => onLook({ hidden })}
          onVariants={onSetUp && ((variants) => onSetUp({ variants }))}
        />
      </Box>
      <TreeList
        label="Parts"
        rows={rows}
        chosen={marked ? `#${marked.id}` : null}
        onChoose={(row) => row.part && onLook({ part: row.part.id === look.part ? null : row.part.id })}
        onOpen={(row, isOpen) =>
          setClosed((before) =>
            isOpen ? new Set([...before].filter((key) => key !== row.key)) : new Set([...before, row.key]),
          )
        }
      >
        {(row) => (
          <PartLine
            row={row}
            hidden={look.hidden}
            isLeftOut={row.part !== null && leftOut.has(partKey(row.part))}
            onShow={(isShown) => setShown(row.parts, isShown)}
          />
        )}
      </TreeList>
      <Box sx={{ p: 1, borderTop: 1, borderColor: 'divider', display: 'grid', gap: 0.5 }}>
        {marked && (
          <Typography variant="body2" sx={{ overflowWrap: 'anywhere' }}>
            <b className="path">{marked.name}</b>
            {`: ${plural(marked.triangles, 'triangle')}, ${plural(marked.vertices, 'corner')}${marked.material === '' ? '' : `, material ${marked.material}`}`}
            {marked.helper && `; a helper for ${marked.helper.kind}: ${marked.helper.reason}`}
          </Typography>
        )}
        <Box sx={{ display: 'flex', gap: 0.5, flexWrap: 'wrap' }}>
          {marked && (
            <>
              <Button size="small" onClick={() => setShown([marked.id], look.hidden.has(marked.id))}>
                {look.hidden.has(marked.id) ? 'Show' : 'Hide'}
              </Button>
              <Button
                size="small"
                onClick={() =>
                  onLook({ hidden: new Set(parts.map(({ id }) => id).filter((id) => id !== marked.id)) })
                }
              >
                Only this
              </Button>
              <Button size="small" onClick={() => onFit(marked.id)}>
                Fit
              </Button>
              {onSetUp && (
                <Toggle
                  isOn={isLeftOut}
                  onClick={() => {
                    const key = partKey(marked);
                    onSetUp({
                      leftOut: isLeftOut
                        ? setUp.leftOut.filter((one) => one !== key)
                        : [...setUp.leftOut, key],
                    });
                  }}
                >
                  Leave out
                </Toggle>
              )}
            </>
          )}
          {look.hidden.size > 0 && (
            <Button size="small" onClick={() => onLook({ hidden: new Set() })}>
              Show all
            </Button>
          )}
        </Box>
        {onSetUp && (marked || found.length > 0) && (
          <MovePart
            parts={found.length > 1 ? found : marked ? [marked] : found}
            moved={setUp.moved}
            onMoved={(moved) => onSetUp({ moved })}
          />
        )}
      </Box>
    </>
  );
}

function PartLine({
  row: { name, part, parts, triangles },
  hidden,
  isLeftOut,
  onShow,
}: {
  row: PartRow;
  isLeftOut: boolean;
  hidden: ReadonlySet<number>;
  onShow: (isShown: boolean) => void;
}): ReactNode {
  const count = parts.filter((id) => !hidden.has(id)).length;
  return (
    <>
      <Checkbox
        size="small"
        sx={{ p: 0 }}
        tabIndex={-1}
        checked={count > 0}
        indeterminate={count > 0 && count < parts.length}
        onClick={(event) => event.stopPropagation()}
        onChange={() => onShow(count < parts.length)}
        slotProps={{ input: { 'aria-label': `Show ${name}` } }}
      />
      <Box
        component="span"
        className="path"
        title={part?.helper ? `${part.helper.kind}: ${part.helper.reason}` : name}
        sx={{
          ...{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
          color: part?.helper ? 'text.secondary' : 'text.primary',
          fontStyle: part?.helper ? 'italic' : 'normal',
        }}
      >
        {name}
        {isLeftOut && ' (left out)'}
      </Box>
      <Box component="span" sx={{ color: 'text.secondary', fontSize: '0.78rem' }}>
        {triangles.toLocaleString('en')}
      </Box>
    </>
  );
}

function kindsOf(helpers: readonly PartEntry[]): string {
  const counts = new Map<string, number>();
  for (const { helper } of helpers) if (helper) counts.set(helper.kind, (counts.get(helper.kind) ?? 0) + 1);
  return [...counts].map(([kind, count]) => `${count.toLocaleString('en')} ${kind}`).join(', ');
}
