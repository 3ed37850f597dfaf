import { textOption, type Arguments } from './arguments.ts';

/** Two builds of a channel, by name. */
export type SpanNames = Record<'title' | 'channel' | 'from' | 'to', string>;

export const spanOptions = { title: textOption, from: textOption, to: textOption, channel: textOption };

/** @throws UsageError when the title or a build is missing */
export function spanOf(given: Arguments): SpanNames {
  return {
    title: given.needed('title'),
    channel: given.text('channel') ?? 'main',
    from: given.needed('from'),
    to: given.needed('to'),
  };
}
