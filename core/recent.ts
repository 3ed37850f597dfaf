/** Keeps a value as the one that was asked for last, and of all no more than so many: the oldest go. */
export function keepRecent<Key, Value>(kept: Map<Key, Value>, key: Key, value: Value, most: number): void {
  kept.delete(key);
  kept.set(key, value);
  for (const oldest of kept.keys()) {
    if (kept.size <= most) break;
    kept.delete(oldest);
  }
}
