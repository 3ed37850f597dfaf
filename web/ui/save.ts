const keptMs = 10_000;

/** Has the browser keep a file. */
export function save(blob: Blob, name: string): void {
  const address = URL.createObjectURL(blob);
  const link = document.createElement('a');
  Object.assign(link, { href: address, download: name });
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), keptMs);
}
