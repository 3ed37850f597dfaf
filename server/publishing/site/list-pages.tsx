import type { ReactNode } from 'react';
import { listAddress } from '../../../core/catalogue/address.ts';
import { Cards, type CardEntry } from './cards.tsx';
import { rootOf, type Page } from './layout.tsx';

export const entriesOnPage = 96;

export function entriesText(count: number): string {
  return count === 1 ? '1 entry' : `${count.toLocaleString('en')} entries`;
}

/** One list: all entries that have a value, such as a tag. */
export interface EntryList {
  /** `tag`, and what it is called: `Tag`. */
  by: string;
  heading: string;
  value: string;
  entries: readonly CardEntry[];
}

/** The pages of a list: the first at the list's address, the others beside it by number. */
export function listPages({ by, heading, value, entries }: EntryList): Page[] {
  const folder = `lists/${by}/${listAddress(value)}/`;
  const count = Math.max(1, Math.ceil(entries.length / entriesOnPage));
  const pathOf = (number: number): string => `${folder}${number === 1 ? 'index' : number}.html`;
  return Array.from({ length: count }, (_, at): Page => {
    const path = pathOf(at + 1);
    const root = rootOf(path);
    return {
      ...{ path, heading: count === 1 ? heading : `${heading}, page ${at + 1}` },
      main: (
        <>
          <h1>{heading}</h1>
          <p className="lead">{entriesText(entries.length)}</p>
          <Cards entries={entries.slice(at * entriesOnPage, (at + 1) * entriesOnPage)} root={root} />
          {count > 1 && <Pager number={at + 1} count={count} address={(number) => root + pathOf(number)} />}
        </>
      ),
    };
  });
}

function Pager({
  number,
  count,
  address,
}: {
  number: number;
  count: number;
  address: (number: number) => string;
}): ReactNode {
  const near = [...new Set([1, number - 2, number - 1, number, number + 1, number + 2, count])].filter(
    (page) => page >= 1 && page <= count,
  );
  return (
    <nav aria-label="Pages" className="pager">
      {near.map((page) =>
        page === number ? (
          <span key={page} aria-current="page">
            {page}
          </span>
        ) : (
          <a key={page} href={address(page)}>
            {page}
          </a>
        ),
      )}
    </nav>
  );
}

/** The page that leads to all lists. */
export function listsPage(lists: readonly EntryList[]): Page {
  const groups = new Map<string, EntryList[]>();
  for (const list of lists) groups.set(list.by, [...(groups.get(list.by) ?? []), list]);
  const names: Readonly<Record<string, string>> = {
    all: 'Everything',
    kind: 'By kind',
    thing: 'By kind of thing',
    tag: 'By tag',
  };
  return {
    path: 'lists/index.html',
    heading: 'Lists',
    main: (
      <>
        <h1>Lists</h1>
        {[...groups].map(([by, list]) => (
          <section key={by}>
            <h2>{names[by] ?? by}</h2>
            <ul className="names">
              {list.map(({ value, entries }) => (
                <li key={value}>
                  <a href={`../lists/${by}/${listAddress(value)}/index.html`}>{value}</a>
                  {` (${entries.length.toLocaleString('en')})`}
                </li>
              ))}
            </ul>
          </section>
        ))}
      </>
    ),
  };
}
