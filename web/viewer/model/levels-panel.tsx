import { Box, Button, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { bytesText, plural } from '../../../core/figures.ts';
import { nameOf } from '../../ui/path-text.tsx';
import { Plate } from '../../ui/plate.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import type { Level } from './levels.ts';

/** The ladder of levels of detail, the finest on top: one is switched to in place, or all stand side by side. */
export function LevelsPanel({
  levels,
  shown,
  isSideBySide,
  onShow,
  onSideBySide,
}: {
  levels: readonly Level[];
  shown: string;
  isSideBySide: boolean;
  onShow: (path: string) => void;
  onSideBySide: (isOn: boolean) => void;
}): ReactNode {
  const [finest] = levels;
  return (
    <Box sx={{ overflow: 'auto', flex: 1, minHeight: 0 }}>
      <Box sx={{ p: 1, display: 'flex', alignItems: 'center', gap: 1 }}>
        <Typography variant="body2" sx={{ flex: 1 }}>
          {plural(levels.length, 'level')}
        </Typography>
        <Toggle isOn={isSideBySide} onClick={() => onSideBySide(!isSideBySide)}>
          Side by side
        </Toggle>
      </Box>
      <Box component="ul" aria-label="Levels of detail" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {levels.map((one) => (
          <Box key={one.path} component="li" sx={{ borderTop: 1, borderColor: 'divider' }}>
            <Button
              aria-pressed={one.path === shown}
              title={one.path}
              onClick={() => onShow(one.path)}
              sx={{
                ...{
                  width: 1,
                  borderRadius: 0,
                  p: 1,
                  gap: 1,
                  justifyContent: 'flex-start',
                  textAlign: 'left',
                },
                bgcolor: one.path === shown ? 'plate' : 'transparent',
                color: 'text.primary',
              }}
            >
              <Plate width={64} height={48}>
                {one.preview && (
                  <Box component="img" src={one.preview} alt="" sx={{ maxWidth: 1, maxHeight: 1 }} />
                )}
              </Plate>
              <Box sx={{ minWidth: 0 }}>
                <Box sx={{ fontWeight: one.path === shown ? 700 : 400 }}>
                  {`Level ${one.level}${one === finest ? ', the finest' : ''}`}
                </Box>
                <Typography variant="body2" component="div" color="text.primary">
                  {one.triangles === null ? 'not read yet' : plural(one.triangles, 'triangle')}
                </Typography>
                <Typography variant="body2" component="div" color="text.secondary">
                  {[
                    one.sizeBytes === null ? '' : bytesText(one.sizeBytes),
                    one.triangles !== null && finest?.triangles && one !== finest
                      ? `${Math.round((one.triangles / finest.triangles) * 100)} % of the finest`
                      : '',
                  ]
                    .filter(Boolean)
                    .join(', ')}
                </Typography>
                <Typography
                  className="path"
                  component="div"
                  color="text.secondary"
                  sx={{ fontSize: '0.72rem', overflowWrap: 'anywhere' }}
                >
                  {nameOf(one.path)}
                </Typography>
              </Box>
            </Button>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
