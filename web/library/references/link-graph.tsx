import { Box, Typography, useTheme } from '@mui/material';
import cytoscape from 'cytoscape';
import dagre from 'cytoscape-dagre';
import { useEffect, useRef, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import type { Asset } from '../../../contract/assets.ts';
import { failureText } from '../../ui/api.ts';
import { Failure, Loading } from '../../ui/states.tsx';
import { assetPath, usePlace, useSpan } from '../../ui/use-span.ts';
import { useReferencesQuery } from './api.ts';
import { graphLayout, graphParts } from './graph-parts.ts';

cytoscape.use(dagre);

/** What an asset needs to its right, and who needs it to its left. The same stands as lists beside it. */
export default function LinkGraph({ asset }: { asset: Asset }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const navigate = useNavigate();
  const ground = useRef<HTMLDivElement>(null);
  const { palette } = useTheme();
  const { data, error, refetch } = useReferencesQuery({
    channel: place.channel.id,
    build: asset.build,
    path: asset.path,
  });
  useEffect(() => {
    if (!ground.current || !data) return;
    const { nodes, edges } = graphParts(asset.path, data);
    const graph = cytoscape({
      container: ground.current,
      elements: [
        ...nodes.map(({ id, label, role }) => ({ data: { id, label }, classes: role })),
        ...edges.map(({ id, from, to, isGuess }) => ({
          data: { id, source: from, target: to },
          classes: isGuess ? 'guess' : '',
        })),
      ],
      layout: graphLayout,
      minZoom: 0.1,
      maxZoom: 3,
      style: [
        {
          selector: 'node',
          style: {
            shape: 'rectangle',
            label: 'data(label)',
            'font-family': 'Atkinson Hyperlegible, sans-serif',
            'font-size': 13,
            color: palette.text.primary,
            'background-color': palette.background.paper,
            'border-width': 1,
            'border-color': palette.text.secondary,
            'text-valign': 'center',
            'text-wrap': 'ellipsis',
            'text-max-width': '200px',
            width: 210,
            height: 30,
          },
        },
        { selector: '.here', style: { 'border-width': 2, 'border-color': palette.primary.main } },
        {
          selector: '.missing',
          style: { 'border-style': 'dashed', 'border-color': palette.error.main, color: palette.error.main },
        },
        {
          selector: '.more',
          style: { 'border-width': 0, 'background-opacity': 0, color: palette.text.secondary },
        },
        {
          selector: 'edge',
          style: {
            width: 1.4,
            'line-color': palette.text.secondary,
            'target-arrow-color': palette.text.secondary,
            'target-arrow-shape': 'triangle',
            'curve-style': 'bezier',
            // From the right side of who needs to the left side of what is needed.
            'source-endpoint': '50% 0',
            'target-endpoint': '-50% 0',
          },
        },
        { selector: '.guess', style: { 'line-style': 'dashed' } },
      ],
    });
    graph.on('tap', 'node.asset', ({ target }: { target: { id(): string } }) => {
      void navigate(`${assetPath(place, span, target.id(), asset.build)}&show=graph`);
    });
    return () => graph.destroy();
  }, [asset, data, navigate, palette, place, span]);
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!data) return <Loading what="the links" />;
  return (
    <Box sx={{ flex: 1, minWidth: 0, position: 'relative' }}>
      <Box
        ref={ground}
        role="img"
        aria-label={`What ${asset.path} needs, to the right, and who needs it, to the left. The lists beside say the same.`}
        sx={{ position: 'absolute', inset: 0 }}
      />
      <Typography
        variant="caption"
        sx={{ position: 'absolute', left: 12, bottom: 8, color: 'text.secondary' }}
      >
        An arrow points at what is needed. A broken line is a guess by name; a broken frame is missing.
      </Typography>
    </Box>
  );
}
