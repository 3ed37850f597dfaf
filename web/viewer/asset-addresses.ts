/** Where the bytes of an asset lie, by path: what a model names beside it is found from there. */
export function fileAddress(channel: number, build: string, path: string): string {
  return `/api/files/${channel}/${encodeURIComponent(build)}/${path.split('/').map(encodeURIComponent).join('/')}`;
}

/** The same in a form that browsers show. */
export function shownAddress(channel: number, build: string, path: string): string {
  return fileAddress(channel, build, path).replace('/api/files/', '/api/shown/');
}

export function contentAddress(hash: string, format: string): string {
  return `/api/content/${hash}?format=${format}`;
}
