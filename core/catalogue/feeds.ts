import { Feed } from 'feed';

/** One thing of a feed. */
export interface FeedItem {
  /** What makes its identifier, for ever: `entry 12`. */
  id: string;
  title: string;
  /** Below the site's address. */
  path: string;
  text: string;
  /** ISO 8601. */
  at: string;
}

export interface FeedOf {
  /** What makes its identifier: `entries of Mossline Ferry`. */
  id: string;
  title: string;
  rights: string;
  /** Where the site is; empty where that is not known: addresses count from the feed then. */
  address: string;
  at: string;
  items: readonly FeedItem[];
}

/** An identifier that is the same wherever the site is served (RFC 4122 has no name for it: a tag of our own, RFC 4151). */
function identifier(id: string): string {
  return `tag:worvel.invalid,2026:${encodeURIComponent(id)}`;
}

/** A feed as Atom (RFC 4287) and as JSON Feed 1.1. */
export function feedsOf({ id, title, rights, address, at, items }: FeedOf): { atom: string; json: string } {
  const root = address || '../';
  const feed = new Feed({
    ...{
      id: identifier(id),
      title,
      link: root,
      copyright: rights,
      updated: new Date(at),
      generator: 'Worvel',
    },
    author: { name: title },
  });
  for (const item of items)
    feed.addItem({
      ...{ title: item.title, id: identifier(item.id), link: root + item.path, date: new Date(item.at) },
      description: escaped(item.text),
      content: escaped(item.text),
    });
  const json = JSON.parse(feed.json1()) as Record<string, unknown>;
  // The package writes version 1; authors are a list since 1.1.
  const { author, ...rest } = json;
  return {
    atom: `${feed.atom1()}\n`,
    json: `${JSON.stringify({ ...rest, version: 'https://jsonfeed.org/version/1.1', authors: [author], language: 'en' })}\n`,
  };
}

/** What stands in a feed is read as HTML. */
function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
}
