import { useEffect, useState } from 'react';

/** A value that follows when it has stayed the same for a while. */
export function usePaused<Value>(value: Value, ms: number): Value {
  const [paused, setPaused] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setPaused(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return paused;
}
