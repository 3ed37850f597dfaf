import { Box, Button, Typography } from '@mui/material';
import { SimpleTreeView } from '@mui/x-tree-view/SimpleTreeView';
import { TreeItem } from '@mui/x-tree-view/TreeItem';
import { useEffect, useState, type ReactNode } from 'react';
import { fieldPathText, type FieldPath, type ShownField } from '../../../core/formats/field-tree.ts';
import type { Thread } from './use-workshop.ts';

interface Props {
  thread: Thread;
  round: number;
  /** The field of the byte that is looked at: it is opened up. */
  path: FieldPath | null;
  onChoose: (field: ShownField) => void;
}

interface Within {
  fields: ShownField[];
  count: number;
}

const atOnce = 100;
const keyOf = (path: FieldPath): string => JSON.stringify(path);
const pathOf = (key: string): FieldPath => JSON.parse(key) as FieldPath;

/** Fields of the file with their values, opened as far as somebody looks. */
export default function FieldsPane({ thread, round, path, onChoose }: Props): ReactNode {
  const [known, setKnown] = useState<ReadonlyMap<string, Within>>(new Map());
  const [expanded, setExpanded] = useState<string[]>([]);
  const chosen = path ? keyOf(path) : null;
  useEffect(() => {
    let isCurrent = true;
    const wanted = new Set([keyOf([]), ...expanded]);
    void Promise.all(
      [...wanted].map(async (key): Promise<[string, Within]> => [
        key,
        await thread.fields(pathOf(key), 0, atOnce),
      ]),
    ).then(
      (entries) => isCurrent && setKnown(new Map(entries)),
      () => undefined,
    );
    return () => {
      isCurrent = false;
    };
    // What is opened later is fetched when it is opened.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [thread, round]);
  const fetchWithin = async (key: string, from = 0): Promise<void> => {
    const more = await thread.fields(pathOf(key), from, atOnce);
    setKnown((before) => {
      const fields = [...(from > 0 ? (before.get(key)?.fields ?? []) : []), ...more.fields];
      return new Map(before).set(key, { fields, count: more.count });
    });
  };
  const expand = (keys: string[]): void => {
    for (const key of keys) if (!known.has(key)) void fetchWithin(key);
    setExpanded(keys);
  };
  // What leads to the byte that is looked at is opened, where it is among the first of its list.
  useEffect(() => {
    if (!path) return;
    const above = path.slice(0, -1).map((_, at) => keyOf(path.slice(0, at + 1)));
    const missing = above.filter((key) => !expanded.includes(key));
    if (missing.length > 0) expand([...expanded, ...missing]);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [chosen]);
  const root = known.get(keyOf([]));
  if (!root) return null;
  if (root.count === 0)
    return (
      <Typography color="text.secondary" sx={{ p: 2 }}>
        There are no fields yet.
      </Typography>
    );
  const item = (field: ShownField): ReactNode => {
    const key = keyOf(field.path);
    const within = known.get(key);
    const name = fieldPathText(field.path.slice(-1));
    return (
      <TreeItem
        key={key}
        itemId={key}
        label={
          <Box
            component="span"
            className="path"
            sx={{ fontSize: '0.78rem !important', overflowWrap: 'anywhere' }}
          >
            <b>{name}</b>
            {field.text === '' ? '' : `  ${field.text}`}
          </Box>
        }
      >
        {field.count > 0 && (within ? list(key, within) : <TreeItem itemId={`${key} …`} label="…" />)}
      </TreeItem>
    );
  };
  const list = (key: string, { fields, count }: Within): ReactNode => (
    <>
      {fields.map(item)}
      {fields.length < count && (
        <Box component="li" role="none" sx={{ pl: 4 }}>
          <Button onClick={() => void fetchWithin(key, fields.length)}>
            {`${(count - fields.length).toLocaleString('en')} more`}
          </Button>
        </Box>
      )}
    </>
  );
  return (
    <SimpleTreeView
      aria-label="Fields"
      expandedItems={expanded}
      onExpandedItemsChange={(_, keys) => expand(keys)}
      selectedItems={chosen}
      onItemClick={(_, key) => {
        const at = pathOf(key.replace(/ …$/, ''));
        const field = known.get(keyOf(at.slice(0, -1)))?.fields.find((one) => keyOf(one.path) === key);
        if (field) onChoose(field);
      }}
      sx={{ px: 1, '& .MuiTreeItem-content': { py: '1px', borderRadius: 0 } }}
    >
      {list(keyOf([]), root)}
    </SimpleTreeView>
  );
}
