/** Where the bytes of an asset lie, by path: what a model names beside it is found from there. */
export function fileAddress(channel: number, build: string, path: string): string {
  return `/api/files/${channel}/${encodeURIComponent(build)}/${path.split('/').map(encodeURIComponent).join('/')}`;
}

/** The same in a form that browsers show. */
export function shownAddress(channel: number, build: string, path: string): string {
  return fileAddress(channel, build, path).replace('/api/files/', '/api/shown/');
}

/** The numbers of a picture as they are stored. */
export function pixelsAddress(channel: number, build: string, path: string): string {
  return fileAddress(channel, build, path).replace('/api/files/', '/api/pixels/');
}

export function contentAddress(hash: string, format: string): string {
  return `/api/content/${hash}?format=${format}`;
}

/** Where the frames and the sound of a film are asked for. */
export function filmAddress(hash: string, format: string) {
  return (what: 'frame' | 'sound', more: Record<string, number> = {}): string =>
    `/api/films/${hash}/${what}?${new URLSearchParams({ format, ...Object.fromEntries(Object.entries(more).map(([name, value]) => [name, String(value)])) })}`;
}
