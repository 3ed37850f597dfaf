import { useLocation, useSearchParams } from 'react-router';

/** Filters and choices stand in the address: what it says of them, and how to change some; an empty value takes one out. */
export function useAddress(): [
  URLSearchParams,
  (changes: Record<string, string | undefined>, options?: { replace: boolean }) => void,
] {
  const [parameters, setParameters] = useSearchParams();
  const { pathname } = useLocation();
  return [
    parameters,
    (changes, options = { replace: true }) => {
      // The window’s address has what was said a moment ago; what was drawn last may not, and would take it back.
      const isDrawn =
        pathname === decodeURI(window.location.pathname) || pathname === window.location.pathname;
      const next = new URLSearchParams(isDrawn ? window.location.search : parameters);
      for (const [name, value] of Object.entries(changes)) {
        if (value) next.set(name, value);
        else next.delete(name);
      }
      setParameters(next, options);
    },
  ];
}
