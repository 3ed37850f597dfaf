import { Box, Button, LinearProgress, Typography } from '@mui/material';
import { useRef, useState, type ReactNode } from 'react';
import { useDropzone } from 'react-dropzone';
import { Link } from 'react-router';
import type { Upload } from '../../../contract/ways-in.ts';
import { bytesText, plural } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import {
  useBeginUploadMutation,
  useFinishUploadMutation,
  useRemoveUploadMutation,
  useUploadsQuery,
  type ListedUpload,
} from './api.ts';
import { pathOfFile, sendFiles, type FileToSend } from './send-files.ts';

interface Sending {
  name: string;
  bytes: number;
  total: number;
  state: string;
}

/** Takes an archive or a folder by drag and drop, and sends it in chunks. */
export function UploadPanel(): ReactNode {
  const [begin] = useBeginUploadMutation();
  const [finish] = useFinishUploadMutation();
  const { data: uploads } = useUploadsQuery();
  const [sending, setSending] = useState<Sending | null>(null);
  const [failure, setFailure] = useState('');
  const [finished, setFinished] = useState<Upload | null>(null);
  const stop = useRef(new AbortController());

  const send = async (chosen: readonly File[]): Promise<void> => {
    const files: FileToSend[] = chosen.map((file) => ({ path: pathOfFile(file), file }));
    const total = files.reduce((sum, { file }) => sum + file.size, 0);
    const [first] = files;
    if (!first) return;
    const name = first.path.includes('/')
      ? (first.path.split('/')[0] ?? '')
      : files.length === 1
        ? first.path
        : plural(files.length, 'file');
    stop.current = new AbortController();
    setFailure('');
    setFinished(null);
    setSending({ name, bytes: 0, total, state: 'sending' });
    try {
      const sizes = files.map(({ path, file }) => ({ path, size: file.size }));
      const upload = await begin({ name, files: sizes }).unwrap();
      await sendFiles(upload, files, stop.current.signal, (bytes, state) =>
        setSending({ name, bytes, total, state }),
      );
      setFinished(await finish(upload.id).unwrap());
    } catch (error) {
      if (!stop.current.signal.aborted)
        setFailure(
          error instanceof Error ? error.message : failureText(error as Parameters<typeof failureText>[0]),
        );
    } finally {
      setSending(null);
    }
  };
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    onDrop: (files) => void send(files),
    noClick: true,
    noKeyboard: true,
    disabled: sending !== null,
  });

  return (
    <Box component="section" aria-label="Upload">
      <Typography variant="h2" gutterBottom>
        From this computer
      </Typography>
      <Box
        {...getRootProps()}
        sx={{
          border: 1,
          borderStyle: 'dashed',
          borderColor: isDragActive ? 'primary.main' : 'divider',
          bgcolor: isDragActive ? 'plate' : 'transparent',
          p: 2,
        }}
      >
        <input {...getInputProps()} aria-label="Archive to upload" />
        {sending ? (
          <>
            <Typography>{`${sending.name}: ${bytesText(sending.bytes)} of ${bytesText(sending.total)}, ${sending.state}`}</Typography>
            <LinearProgress
              aria-label={`Sending ${sending.name}`}
              variant="determinate"
              value={sending.total === 0 ? 100 : (sending.bytes / sending.total) * 100}
              sx={{ my: 1, height: 6 }}
            />
            <Button onClick={() => stop.current.abort()}>
              Stop; it goes on when the same is chosen again
            </Button>
          </>
        ) : (
          <>
            <Typography gutterBottom>
              {isDragActive
                ? 'Let go: it is sent.'
                : 'Drop an archive or a folder here. It is sent in chunks, each checked by its hash.'}
            </Typography>
            <Button variant="outlined" onClick={open}>
              Choose an archive
            </Button>{' '}
            <FolderButton onChosen={(files) => void send(files)} />
          </>
        )}
      </Box>
      {failure !== '' && (
        <Typography role="alert" color="primary" sx={{ mt: 1, overflowWrap: 'anywhere' }}>
          {`${failure} What came before counts: choose the same again to go on.`}
        </Typography>
      )}
      {finished?.source && (
        <Typography role="status" sx={{ mt: 1 }}>
          {`${finished.name} is here. `}
          <Link to={`/new?source=${encodeURIComponent(finished.source)}`}>Bring it in as a build</Link>
        </Typography>
      )}
      {(uploads ?? []).map((upload) => (
        <UploadRow key={upload.id} upload={upload} />
      ))}
    </Box>
  );
}

/** The browser's own choice of a folder, which the drop area's package does not offer. */
function FolderButton({ onChosen }: { onChosen: (files: readonly File[]) => void }): ReactNode {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={(element) => {
          input.current = element;
          element?.setAttribute('webkitdirectory', '');
        }}
        type="file"
        multiple
        hidden
        aria-label="Folder to upload"
        onChange={({ target }) => onChosen([...(target.files ?? [])])}
      />
      <Button variant="outlined" onClick={() => input.current?.click()}>
        Choose a folder
      </Button>
    </>
  );
}

function UploadRow({ upload }: { upload: ListedUpload }): ReactNode {
  const [remove] = useRemoveUploadMutation();
  return (
    <Box
      sx={{ display: 'flex', gap: 2, alignItems: 'center', borderBottom: 1, borderColor: 'divider', py: 0.5 }}
    >
      <Typography sx={{ flex: 1, overflowWrap: 'anywhere' }}>{upload.name}</Typography>
      <Typography color="text.secondary">
        {upload.isFinished
          ? bytesText(upload.size)
          : `${bytesText(upload.received)} of ${bytesText(upload.size)}`}
      </Typography>
      <Button onClick={() => void remove(upload.id)} aria-label={`Delete ${upload.name}`}>
        Delete
      </Button>
    </Box>
  );
}
