import { Box, Button, Typography } from '@mui/material';
import { useMemo, useState, type ReactNode } from 'react';
import { plural } from '../../../core/figures.ts';
import { boneOddities } from '../../../core/kinds/model/parts/bone-oddities.ts';
import { TreeList } from '../../lists/tree-list.tsx';
import { TextFilter } from '../../ui/text-filter.tsx';
import type { Look } from '../engine/look.ts';
import type { BoneEntry } from '../engine/standing-model.ts';
import { boneRows } from './bone-tree.ts';

const shownOddities = 6;

/** Bones of a model as a tree, with what is odd about them. */
export function BonesPanel({
  bones,
  look,
  onLook,
}: {
  bones: readonly BoneEntry[];
  look: Look;
  onLook: (change: Partial<Look>) => void;
}): ReactNode {
  const [words, setWords] = useState('');
  const [closed, setClosed] = useState<ReadonlySet<string>>(new Set());
  const [isWhole, setWhole] = useState(false);
  const rows = useMemo(() => boneRows(bones, words, closed), [bones, words, closed]);
  const oddities = useMemo(() => boneOddities(bones), [bones]);
  const marks = useMemo(() => new Map(oddities.map(({ bone, says }) => [bone, says])), [oddities]);
  const chosen = bones.findIndex(({ name }) => name === look.bone);
  const choose = (name: string | null): void => onLook({ bone: name, hasBones: true });
  return (
    <>
      <Box sx={{ p: 1, display: 'grid', gap: 0.75 }}>
        <TextFilter value={words} onChange={setWords} label="Words in names" name="Search the bones" />
        <Typography variant="body2">{plural(bones.length, 'bone')}</Typography>
        {oddities.length > 0 && (
          <Box component="section" aria-label="Odd bones">
            {oddities.slice(0, isWhole ? undefined : shownOddities).map(({ bone, kind, says }) => (
              <Typography key={`${bone} ${kind}`} variant="body2" sx={{ overflowWrap: 'anywhere' }}>
                <Button
                  className="path"
                  sx={{ p: 0, minWidth: 0, mr: 0.75, verticalAlign: 'baseline', textAlign: 'left' }}
                  onClick={() => choose(bones[bone]?.name ?? null)}
                >
                  {bones[bone]?.name}
                </Button>
                {says}
              </Typography>
            ))}
            {!isWhole && oddities.length > shownOddities && (
              <Button size="small" onClick={() => setWhole(true)}>
                {`${(oddities.length - shownOddities).toLocaleString('en')} more`}
              </Button>
            )}
          </Box>
        )}
      </Box>
      <TreeList
        label="Bones"
        rows={rows}
        chosen={chosen < 0 ? null : String(chosen)}
        onChoose={(row) => choose(row.name === look.bone ? null : row.name)}
        onOpen={(row, isOpen) =>
          setClosed((before) =>
            isOpen ? new Set([...before].filter((key) => key !== row.key)) : new Set([...before, row.key]),
          )
        }
      >
        {({ bone, name }) => (
          <Box
            component="span"
            className="path"
            title={marks.get(bone) ?? name}
            sx={{
              ...{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
              color: marks.has(bone) ? 'primary.main' : 'text.primary',
            }}
          >
            {name}
            {marks.has(bone) && ' (odd)'}
          </Box>
        )}
      </TreeList>
      <Box sx={{ p: 1, borderTop: 1, borderColor: 'divider' }}>
        <Button
          size="small"
          disabled={look.bone === null}
          onClick={() => onLook({ way: look.way === 'weights' ? 'textured' : 'weights' })}
        >
          {look.way === 'weights' ? 'As it looks' : 'Weights of this bone'}
        </Button>
      </Box>
    </>
  );
}
