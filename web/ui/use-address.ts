import { useSearchParams } from 'react-router';

/** Filters and choices stand in the address: what it says of them, and how to change some; an empty value takes one out. */
export function useAddress(): [
  URLSearchParams,
  (changes: Record<string, string | undefined>, options?: { replace: boolean }) => void,
] {
  const [parameters, setParameters] = useSearchParams();
  return [
    parameters,
    (changes, options = { replace: true }) => {
      setParameters((before) => {
        const next = new URLSearchParams(before);
        for (const [name, value] of Object.entries(changes)) {
          if (value) next.set(name, value);
          else next.delete(name);
        }
        return next;
      }, options);
    },
  ];
}
