import type { AcceptedLink } from '../../../contract/references.ts';
import { plural } from '../../../core/figures.ts';
import type { Author } from '../../people/history/change-log.ts';
import { changeItems, type KeptItems } from '../../people/history/kept-items.ts';
import { findTitleOf } from '../../acquire/builds/builds.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { change, select, type Queryable } from '../../platform/database/rows.ts';
import { pathDigest } from '../../store/hash.ts';
import { bumpNames } from '../names/lexicons.ts';

/** A link by what it is from: the file, and the text in it. A path holds no line break. */
const itemOf = ({ from, text }: Pick<AcceptedLink, 'from' | 'text'>): string => `${from}\n${text}`;
function linkOf(item: string): Pick<AcceptedLink, 'from' | 'text'> {
  const at = item.indexOf('\n');
  return { from: item.slice(0, at), text: item.slice(at + 1) };
}

export const keptLinks: KeptItems = {
  subject: 'links',
  async read(connection, { channelId }, items) {
    const states = new Map<string, string>();
    for (let begin = 0; begin < items.length; begin += 500) {
      const byDigests = new Map(
        items.slice(begin, begin + 500).map((item) => {
          const { from, text } = linkOf(item);
          return [`${pathDigest(from).toString('hex')} ${pathDigest(text).toString('hex')}`, item];
        }),
      );
      const rows = await select<{ fromDigest: Buffer; textDigest: Buffer; target: string }>(
        connection,
        `SELECT l.from_digest AS fromDigest, l.text_digest AS textDigest, p.path AS target
           FROM accepted_links l JOIN paths p ON p.digest = l.target_digest
          WHERE l.channel_id = ? AND l.from_digest IN (?) FOR UPDATE`,
        [channelId, [...byDigests.values()].map((item) => pathDigest(linkOf(item).from))],
      );
      for (const { fromDigest, textDigest, target } of rows) {
        const item = byDigests.get(`${fromDigest.toString('hex')} ${textDigest.toString('hex')}`);
        if (item !== undefined) states.set(item, JSON.stringify(target));
      }
    }
    return states;
  },
  async write(connection, { titleId, channelId }, states) {
    for (const [item, state] of states) {
      const { from, text } = linkOf(item);
      if (state === null)
        await change(
          connection,
          'DELETE FROM accepted_links WHERE channel_id = ? AND from_digest = ? AND text_digest = ?',
          [channelId, pathDigest(from), pathDigest(text)],
        );
      else
        await change(
          connection,
          `REPLACE INTO accepted_links (channel_id, from_digest, text_digest, text, target_digest)
            VALUES (?, ?, ?, ?, ?)`,
          [channelId, pathDigest(from), pathDigest(text), text, pathDigest(String(JSON.parse(state)))],
        );
    }
    await bumpNames(connection, titleId);
  },
};

/** Keeps links that a person accepted, and forgets others. @throws ConflictError, NotFoundError */
export async function saveLinks(
  pool: Pool,
  channelId: number,
  links: readonly AcceptedLink[],
  drop: readonly Pick<AcceptedLink, 'from' | 'text'>[],
  author: Author,
): Promise<void> {
  const next = new Map<string, string | null>(drop.map((link) => [itemOf(link), null]));
  for (const link of links) next.set(itemOf(link), JSON.stringify(link.target));
  const [first] = links;
  const what = [
    ...(links.length === 1 && first ? [`“${first.text}” in ${first.from} is ${first.target}`] : []),
    ...(links.length > 1 ? [`accepted ${plural(links.length, 'link')}`] : []),
    ...(drop.length > 0 ? [`dropped ${plural(drop.length, 'link')}`] : []),
  ];
  const titleId = await findTitleOf(pool, channelId);
  await changeItems(pool, keptLinks, { titleId, channelId }, next, what.join(', '), author);
}

/** Links from a file that a person accepted. */
export async function listLinksFrom(
  database: Queryable,
  channelId: number,
  from: string,
): Promise<AcceptedLink[]> {
  const rows = await select<{ text: string; target: string }>(
    database,
    `SELECT l.text, p.path AS target FROM accepted_links l JOIN paths p ON p.digest = l.target_digest
      WHERE l.channel_id = ? AND l.from_digest = ? ORDER BY l.text`,
    [channelId, pathDigest(from)],
  );
  return rows.map((row) => ({ from, ...row }));
}
