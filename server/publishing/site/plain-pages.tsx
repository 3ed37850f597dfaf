import type { EditionBuild } from '../../../contract/editions.ts';
import { BuildList } from './build-pages.tsx';
import { Cards, type CardEntry } from './cards.tsx';
import { siteName, type Page, type SiteTitle } from './layout.tsx';

/** The front page: what is newest, and the ways in. */
export function frontPage(
  title: SiteTitle,
  { count, newest, builds }: { count: number; newest: readonly CardEntry[]; builds: readonly EditionBuild[] },
): Page {
  return {
    path: 'index.html',
    heading: siteName(title),
    description: title.site.lead,
    main: (
      <>
        <h1>{siteName(title)}</h1>
        {title.site.lead && <p className="lead">{title.site.lead}</p>}
        <form role="search" action="search/index.html">
          <label htmlFor="query">{`Search ${count.toLocaleString('en')} entries`}</label>
          <input id="query" name="q" type="search" autoComplete="off" />
          <button type="submit">Search</button>
        </form>
        {builds.length > 0 && (
          <section>
            <h2>Newest builds</h2>
            <BuildList builds={builds} root="" />
          </section>
        )}
        <section>
          <h2>Newest entries</h2>
          <Cards entries={newest} root="" />
          <p>
            <a href="lists/index.html">All entries, by kind and by tag</a>
          </p>
        </section>
      </>
    ),
  };
}

export const searchPage: Page = {
  path: 'search/index.html',
  heading: 'Search',
  main: (
    <>
      <h1>Search</h1>
      <form role="search" id="search" action="index.html">
        <label htmlFor="query">Names, paths, tags and builds</label>
        <input id="query" name="q" type="search" autoComplete="off" />
        <p id="count" role="status" />
      </form>
      <noscript>
        <p>
          The search needs scripts; <a href="../lists/index.html">the lists</a> do not.
        </p>
      </noscript>
      <div className="results">
        <details id="facets" hidden>
          <summary>Narrow down</summary>
          <div id="choices" />
        </details>
        <ul className="cards" id="found" />
      </div>
      <p>
        <button id="more" hidden>
          Show more
        </button>
      </p>
    </>
  ),
};

/** What became different since the edition before. */
export function changesPage(
  number: number,
  {
    added,
    changed,
    removed,
  }: { added: readonly CardEntry[]; changed: readonly CardEntry[]; removed: number },
): Page {
  const isNone = added.length + changed.length + removed === 0;
  return {
    path: 'changes/index.html',
    heading: 'Changes',
    main: (
      <>
        <h1>{`Edition ${number}`}</h1>
        {isNone && <p className="lead">Nothing is different from the edition before.</p>}
        {added.length > 0 && (
          <section>
            <h2>{`New: ${added.length.toLocaleString('en')}`}</h2>
            <Cards entries={added.slice(0, 96)} root="../" />
          </section>
        )}
        {changed.length > 0 && (
          <section>
            <h2>{`Changed: ${changed.length.toLocaleString('en')}`}</h2>
            <Cards entries={changed.slice(0, 96)} root="../" />
          </section>
        )}
        {removed > 0 && <p>{`Taken out: ${removed.toLocaleString('en')}`}</p>}
      </>
    ),
  };
}

/** How anybody checks an edition, without the product. */
export const checkPage: Page = {
  path: 'check/index.html',
  heading: 'How to check this edition',
  main: (
    <>
      <h1>How to check this edition</h1>
      <p>
        Every file of this site is listed with its SHA-256 in <a href="../SHA256SUMS">SHA256SUMS</a>. That
        list is signed with Ed25519 (RFC 8032): <a href="../SHA256SUMS.sig">SHA256SUMS.sig</a>, by the key{' '}
        <a href="../signing-key.pem">signing-key.pem</a>. Ask those who publish it whether that is their key.
      </p>
      <p>In a copy of the whole site, with OpenSSL 3 and the tools that every Linux has:</p>
      <pre>
        <code>
          {[
            'openssl pkeyutl -verify -pubin -inkey signing-key.pem -rawin -in SHA256SUMS -sigfile SHA256SUMS.sig',
            'sha256sum --check --quiet SHA256SUMS',
            'sha256sum signing-key.pem',
          ].join('\n')}
        </code>
      </pre>
    </>
  ),
};

/** Where an entry was before it was called otherwise: it leads on, without scripts too. */
export function movedPage(path: string, address: string): string {
  const to = `${address}.html`;
  return `<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>Moved</title><meta http-equiv="refresh" content="0; url=${to}"><link rel="canonical" href="${to}"></head><body data-path="${path}"><p>This entry is called otherwise now: <a href="${to}">go on</a>.</p></body></html>\n`;
}

export const missingPage: Page = {
  path: '404.html',
  heading: 'Nothing is here',
  main: (
    <>
      <h1>Nothing is here</h1>
      <p>
        What was here may have been taken out. <a href="index.html">To the front page</a>
      </p>
    </>
  ),
};
