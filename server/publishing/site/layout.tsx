import type { ReactNode } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import type { SiteSettings } from '../../../contract/catalogue.ts';

/** What all pages of a site have in common. Nothing of it changes from one edition to the next by itself. */
export interface SiteTitle {
  name: string;
  rights: string;
  site: SiteSettings;
}

/** One page: where it lies, counted from the root, and what stands on it. */
export interface Page {
  /** `entries/12-heron/index.html` */
  path: string;
  heading: string;
  main: ReactNode;
  /** For previews elsewhere; empty for none. */
  description?: string;
  picture?: string | null;
  /** JSON-LD (JSON for linking data 1.1, with the words of schema.org). */
  data?: object;
}

/** Nothing but the site's own files, wherever it is served: what a game's names and texts hold can bring in nothing else. */
const sitePolicy = [
  "default-src 'none'",
  "script-src 'self' 'wasm-unsafe-eval'",
  "style-src 'self'",
  "img-src 'self' blob: data:",
  "media-src 'self'",
  "font-src 'self'",
  "connect-src 'self' blob: data:",
  "worker-src 'self' blob:",
  "base-uri 'none'",
  "form-action 'self'",
].join('; ');

/** What a site is called. */
export function siteName({ name, site }: SiteTitle): string {
  return site.name || `${name}: catalogue`;
}

/** From a page to the root of its site: `../../`. */
export function rootOf(path: string): string {
  return '../'.repeat(path.split('/').length - 1);
}

/** The text of a page. It is whole without scripts. */
export function renderPage(
  title: SiteTitle,
  { path, heading, main, description, picture, data }: Page,
): string {
  const root = rootOf(path);
  const { address } = title.site;
  const own = path === 'index.html' ? siteName(title) : `${heading}: ${siteName(title)}`;
  const markup = renderToStaticMarkup(
    <html lang="en">
      <head>
        <meta charSet="utf-8" />
        <meta httpEquiv="Content-Security-Policy" content={sitePolicy} />
        <meta name="referrer" content="no-referrer" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>{own}</title>
        {description && <meta name="description" content={description} />}
        <meta property="og:title" content={heading} />
        <meta property="og:type" content="website" />
        {description && <meta property="og:description" content={description} />}
        {picture && address && <meta property="og:image" content={address + picture} />}
        {address && <link rel="canonical" href={address + path.replace(/(^|\/)index\.html$/, '$1')} />}
        <link rel="icon" href="data:," />
        <link
          rel="alternate"
          type="application/atom+xml"
          title="Entries"
          href={`${root}feeds/entries.atom`}
        />
        <link
          rel="alternate"
          type="application/feed+json"
          title="Entries"
          href={`${root}feeds/entries.json`}
        />
        <link rel="stylesheet" href={`${root}site/site.css`} />
        <link rel="stylesheet" href={`${root}site/look.css`} />
        <script type="module" src={`${root}site/site.js`} />
        {data && (
          <script
            type="application/ld+json"
            // What stands in a script is no markup: a name cannot end it.
            dangerouslySetInnerHTML={{ __html: JSON.stringify(data).replaceAll('<', '\\u003c') }}
          />
        )}
      </head>
      <body data-root={root}>
        <a className="skip" href="#main">
          To the content
        </a>
        <header>
          <a className="name" href={`${root}index.html`}>
            {siteName(title)}
          </a>
          <nav aria-label="Catalogue">
            <a href={`${root}search/index.html`}>Search</a>
            <a href={`${root}lists/index.html`}>Lists</a>
            <a href={`${root}builds/index.html`}>Builds</a>
            <a href={`${root}changes/index.html`}>Changes</a>
          </nav>
        </header>
        <main id="main">{main}</main>
        <footer>
          <p className="rights">{title.rights || `No statement on rights was given for ${title.name}.`}</p>
          <p>
            <a href={`${root}check/index.html`}>How to check this edition</a>
            {' · '}
            <a href={`${root}feeds/entries.atom`}>Feed of entries</a>
            {' · '}
            <a href={`${root}feeds/builds.atom`}>Feed of builds</a>
            {' · '}
            <a href={`${root}data/entries.csv`}>CSV</a>
            {' · '}
            <a href={`${root}data/entries.json`}>JSON</a>
          </p>
        </footer>
      </body>
    </html>,
  );
  return `<!doctype html>\n${markup}\n`;
}
