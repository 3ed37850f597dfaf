/** Names under which comments say where a loop lies, in sample frames (common practice of games, no published source). */
const startNames = ['LOOPSTART', 'LOOP_START'];
const lengthNames = ['LOOPLENGTH', 'LOOP_LENGTH'];
const endNames = ['LOOPEND', 'LOOP_END'];

/** The loop that the comments of an Ogg or FLAC file tell of; none where they do not. */
export async function loopOfComments(
  bytes: Uint8Array,
  format: string,
  frames: number,
): Promise<{ startFrame: number; endFrame: number }[]> {
  if (format !== 'ogg' && format !== 'opus' && format !== 'flac') return [];
  if (!holdsLoop(bytes)) return [];
  const { parseBuffer } = await import('music-metadata');
  const { native } = await parseBuffer(bytes, undefined, { skipCovers: true, duration: false }).catch(() => ({
    native: {},
  }));
  const tags = new Map<string, number>();
  for (const { id, value } of Object.values(native).flat() as { id: string; value: unknown }[])
    if (/^\d+$/.test(String(value))) tags.set(id.toUpperCase(), Number(value));
  const find = (names: readonly string[]): number | undefined =>
    names.map((name) => tags.get(name)).find((value) => value !== undefined);
  const startFrame = find(startNames);
  if (startFrame === undefined) return [];
  const length = find(lengthNames);
  const endFrame = length === undefined ? (find(endNames) ?? frames - 1) : startFrame + length - 1;
  return endFrame > startFrame ? [{ startFrame, endFrame }] : [];
}

/** Comments stand near the beginning: most files need not be looked through for them. */
function holdsLoop(bytes: Uint8Array): boolean {
  return /LOOP_?START/i.test(new TextDecoder('latin1').decode(bytes.subarray(0, 65_536)));
}
