/**
 * Calls `look` again and again, never twice at once, until it is stopped. One that fails is told, and the next one comes.
 * @returns stops it; what is under way ends by itself
 */
export function keepLooking(
  look: () => Promise<void>,
  everyMs: number,
  onError: (error: unknown) => void,
): () => void {
  let isStopped = false;
  let timer: NodeJS.Timeout | null = null;
  const next = (): void => {
    look()
      .catch((error: unknown) => {
        if (!isStopped) onError(error);
      })
      .finally(() => {
        if (!isStopped) timer = setTimeout(next, everyMs);
      });
  };
  next();
  return () => {
    isStopped = true;
    if (timer) clearTimeout(timer);
  };
}
