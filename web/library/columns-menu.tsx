import ViewColumnOutlinedIcon from '@mui/icons-material/ViewColumnOutlined';
import { Button, Checkbox, Menu, MenuItem } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { chosenColumns, columns, withColumn } from './columns.ts';

export function ColumnsMenu({
  named,
  onChange,
}: {
  named: string | null;
  onChange: (named: string) => void;
}): ReactNode {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const chosen = chosenColumns(named);
  return (
    <>
      <Button
        startIcon={<ViewColumnOutlinedIcon />}
        aria-haspopup="menu"
        aria-expanded={anchor !== null}
        onClick={({ currentTarget }) => setAnchor(currentTarget)}
      >
        Columns
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {columns.map((column) => (
          <MenuItem
            key={column.name}
            dense
            role="menuitemcheckbox"
            aria-checked={chosen.includes(column)}
            onClick={() => onChange(withColumn(named, column.name))}
          >
            <Checkbox size="small" checked={chosen.includes(column)} tabIndex={-1} sx={{ p: 0, pr: 1 }} />
            {column.label}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
