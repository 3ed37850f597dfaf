import { createContext, useContext } from 'react';
import { useSearchParams } from 'react-router';
import type { Build, Channel, Title } from '../../contract/builds.ts';

export interface Place {
  title: Title;
  channel: Channel;
  /** Builds that stand on the line, oldest first. */
  builds: Build[];
}

export const PlaceContext = createContext<Place | null>(null);

/** The title and channel that the address names. */
export function usePlace(): Place {
  const place = useContext(PlaceContext);
  if (!place) throw new Error('usePlace: used outside of a title');
  return place;
}

export interface Span {
  /** Null where one build is picked alone. */
  from: Build | null;
  to: Build | null;
}

/** The span that the address chooses; the newest two builds where it does not say. */
export function spanOf(builds: readonly Build[], parameters: URLSearchParams): Span {
  const named = (name: string): Build | null =>
    builds.find(({ label }) => label === parameters.get(name)) ?? null;
  const to = named('to') ?? builds.at(-1) ?? null;
  if (parameters.has('to') && !parameters.has('from')) return { from: null, to };
  const before = to ? builds[builds.indexOf(to) - 1] : undefined;
  return { from: named('from') ?? before ?? null, to };
}

export function useSpan(): Span {
  const [parameters] = useSearchParams();
  return spanOf(usePlace().builds, parameters);
}

/** Where a view of a place lies; `query` keeps the span. */
export function viewPath(place: Pick<Place, 'title' | 'channel'>, view: string): string {
  return `/${encodeURIComponent(place.title.name)}/${encodeURIComponent(place.channel.name)}/${view}`;
}

/** The part of a query that says the span, and nothing else. */
export function spanQuery({ from, to }: Span): string {
  const parameters = new URLSearchParams();
  if (from) parameters.set('from', from.label);
  if (to) parameters.set('to', to.label);
  return parameters.toString();
}

/** @param build where it lies, when that is not the span's later build */
export function assetPath(
  place: Pick<Place, 'title' | 'channel'>,
  span: Span,
  path: string,
  build = span.to?.label,
): string {
  const where =
    build === span.to?.label || build === undefined
      ? spanQuery(span)
      : new URLSearchParams({ from: build, to: build }).toString();
  return `${viewPath(place, 'asset')}?${where}&path=${encodeURIComponent(path)}`;
}
