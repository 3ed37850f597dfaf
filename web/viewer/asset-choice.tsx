import { Autocomplete, TextField } from '@mui/material';
import { useEffect, useState, type ReactNode } from 'react';
import { useLazyAssetListQuery } from './assets-api.ts';

const typingPauseMs = 250;
const shownAtOnce = 30;

/** Finds an asset of a build by words of its path. */
export function AssetChoice({
  channel,
  build,
  kind,
  label,
  onChoose,
}: {
  channel: number;
  build: string;
  kind: string;
  label: string;
  onChoose: (path: string) => void;
}): ReactNode {
  const [text, setText] = useState('');
  const [find, { data, isFetching }] = useLazyAssetListQuery();
  useEffect(() => {
    if (text.trim() === '') return;
    const pause = setTimeout(
      () => void find({ channel, build, text, kind, offset: 0, limit: shownAtOnce, sort: 'path', down: '0' }),
      typingPauseMs,
    );
    return () => clearTimeout(pause);
  }, [find, channel, build, kind, text]);
  return (
    <Autocomplete<string>
      size="small"
      options={text.trim() === '' ? [] : (data?.assets.map(({ path }) => path) ?? [])}
      filterOptions={(options) => options}
      value={null}
      inputValue={text}
      loading={isFetching}
      noOptionsText={text.trim() === '' ? 'Words of its path' : 'Nothing is called so'}
      blurOnSelect
      onInputChange={(_, typed) => setText(typed)}
      onChange={(_, path) => {
        if (path === null) return;
        onChoose(path);
        setText('');
      }}
      slotProps={{ listbox: { className: 'path' }, popper: { sx: { minWidth: 420 } } }}
      renderInput={(parameters) => <TextField {...parameters} variant="standard" label={label} />}
    />
  );
}
