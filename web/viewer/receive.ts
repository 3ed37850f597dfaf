/** Why a server refused something, in its own words where it has any. */
export async function failureOf(response: Response): Promise<string> {
  const answer: unknown = await response.json().catch(() => null);
  if (typeof answer === 'object' && answer !== null && 'error' in answer && typeof answer.error === 'string')
    return answer.error;
  return `the server answered with ${response.status}`;
}

/** All bytes of an answer. @param onCount told how many have come so far */
export async function received(response: Response, onCount: (bytes: number) => void): Promise<ArrayBuffer> {
  const pieces: Uint8Array[] = [];
  let count = 0;
  const reader = response.body?.getReader();
  if (!reader) return response.arrayBuffer();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    pieces.push(value);
    count += value.length;
    onCount(count);
  }
  const all = new Uint8Array(count);
  let at = 0;
  for (const piece of pieces) {
    all.set(piece, at);
    at += piece.length;
  }
  return all.buffer;
}
