import { Box } from '@mui/material';
import type { ReactNode } from 'react';
import Markdown from 'react-markdown';
import rehypeSanitize from 'rehype-sanitize';
import remarkGfm from 'remark-gfm';

/** A note as its Markdown says. */
export default function FormattedNote({ body }: { body: string }): ReactNode {
  return (
    <Box sx={{ '& > :first-of-type': { mt: 0 }, '& pre': { overflow: 'auto' }, overflowWrap: 'anywhere' }}>
      <Markdown remarkPlugins={[remarkGfm]} rehypePlugins={[rehypeSanitize]}>
        {body}
      </Markdown>
    </Box>
  );
}
