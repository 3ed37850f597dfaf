import { Box, Link as MuiLink, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Asset } from '../../contract/assets.ts';
import { bytesText } from '../../core/figures.ts';
import { usePlace, viewPath } from '../shell/use-span.ts';
import { Preview } from './preview.tsx';

/** What happened to the asset along the line of builds. */
export function History({ asset }: { asset: Asset }): ReactNode {
  const place = usePlace();
  return (
    <Box>
      <Typography variant="h2">Along the builds</Typography>
      <Box component="ol" sx={{ listStyle: 'none', m: 0, p: 0, display: 'grid', gap: 0.75 }}>
        {asset.history.map((step) => (
          <Box
            component="li"
            key={`${step.sequence} ${step.what}`}
            sx={{ display: 'flex', gap: 1.5, alignItems: 'center' }}
          >
            <Box
              sx={{
                width: 52,
                height: 44,
                bgcolor: 'plate',
                display: 'flex',
                alignItems: 'center',
                justifyContent: 'center',
                overflow: 'hidden',
              }}
            >
              {step.hash !== null && (
                <Preview
                  hash={step.hash}
                  format={asset.format}
                  facts={step.hash === asset.hash ? asset.facts : null}
                  hasPreview={asset.hasPreview}
                  kind={asset.kind}
                  isSmall
                />
              )}
            </Box>
            <Box>
              {step.hash === null ? (
                <strong>{step.build}</strong>
              ) : (
                <MuiLink
                  component={Link}
                  to={`${viewPath(place, 'asset')}?to=${encodeURIComponent(step.build)}&path=${encodeURIComponent(asset.path)}`}
                >
                  <strong>{step.build}</strong>
                </MuiLink>
              )}
              {` ${step.what}`}
              <Typography variant="caption" color="text.secondary" sx={{ display: 'block' }}>
                {step.size === null ? '' : bytesText(step.size)}
              </Typography>
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
