import type { ReactNode } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import Markdown from 'react-markdown';
import rehypeSanitize from 'rehype-sanitize';
import remarkGfm from 'remark-gfm';
import type { Entry } from '../../contract/catalogue.ts';
import { describe } from '../../core/findings/evidence.ts';
import { bytesText } from '../../core/figures.ts';
import { decodeEnvelope } from '../../core/kinds/sound/envelope.ts';

/** An asset of an entry with the files of the site that show it, relative to the site's root. */
export interface SiteAsset {
  asset: Entry['assets'][number];
  file: string | null;
  /** SHA-256 of the published file, for whoever wants to check it. */
  sha256: string | null;
  preview: string | null;
}

export interface SiteEntry {
  entry: Entry;
  slug: string;
  assets: SiteAsset[];
}

export interface SiteTitle {
  name: string;
  rights: string;
  edition: number;
  /** ISO date. */
  publishedAt: string;
}

/** The page with the search. Without scripts it still lists every entry. */
export function indexPage(title: SiteTitle, entries: readonly SiteEntry[]): string {
  return page(
    title,
    '',
    `${title.name}: catalogue`,
    <main id="catalogue">
      <h1>{title.name}</h1>
      <p className="lead">{`${entries.length} ${entries.length === 1 ? 'entry' : 'entries'}, edition ${title.edition}, ${title.publishedAt.slice(0, 10)}`}</p>
      <form role="search" id="search" hidden>
        <label htmlFor="query">Search names, paths and builds</label>
        <input id="query" type="search" autoComplete="off" />
        <p id="count" role="status" />
      </form>
      <ul className="cards" id="entries">
        {entries.map(({ entry, slug, assets }) => (
          <li key={slug} data-id={entry.id}>
            <a href={`entries/${slug}/index.html`}>
              <Plate asset={assets[0] ?? null} root="" spoiler={entry.spoiler} />
              <strong>{entry.name}</strong>
              <span className="inner">
                {entry.spoiler ? `${entry.internalName} (a spoiler)` : entry.internalName}
              </span>
            </a>
          </li>
        ))}
      </ul>
      <p id="nothing" hidden>
        No entry matches. Try a part of a name, or fewer words.
      </p>
    </main>,
  );
}

export function entryPage(title: SiteTitle, { entry, assets }: SiteEntry): string {
  return page(
    title,
    '../../',
    `${entry.name}: ${title.name}`,
    <main>
      <p>
        <a href="../../index.html">All entries</a>
      </p>
      <h1>{entry.name}</h1>
      {entry.internalName && (
        <p className="lead">
          In the files: <code>{entry.internalName}</code>
        </p>
      )}
      {entry.spoiler && (
        <p className="spoiler-note">
          This entry tells of something that players may want to find by themselves.
        </p>
      )}
      {entry.summary && <p>{entry.summary}</p>}
      {assets.map((asset) => (
        <AssetSection key={asset.asset.path} shown={asset} spoiler={entry.spoiler} />
      ))}
      {entry.credits && <p>Credits: {entry.credits}</p>}
    </main>,
  );
}

function AssetSection({ shown, spoiler }: { shown: SiteAsset; spoiler: boolean }): ReactNode {
  const { asset, file, sha256 } = shown;
  const name = asset.path.slice(asset.path.lastIndexOf('/') + 1);
  return (
    <section>
      <h2>{name}</h2>
      <Exhibit shown={shown} spoiler={spoiler} />
      <dl>
        <dt>Path</dt>
        <dd>
          <code>{asset.path}</code>
        </dd>
        <dt>First seen</dt>
        <dd>{`build ${asset.firstBuild ?? 'unknown'}`}</dd>
        <dt>Shown as in</dt>
        <dd>{`build ${asset.build ?? 'unknown'}`}</dd>
        <dt>What it is</dt>
        <dd>{`${asset.kind}, ${asset.format}, ${describe(asset.facts) ?? 'no facts'}, ${bytesText(asset.size)}`}</dd>
        {file && (
          <>
            <dt>File</dt>
            <dd>
              <a href={`../../${file}`} download={name}>
                {name}
              </a>
              {sha256 && <code className="sum">{`SHA-256 ${sha256}`}</code>}
            </dd>
          </>
        )}
      </dl>
      {asset.note && (
        <div className="note">
          <h3>How it was taken out</h3>
          <Markdown remarkPlugins={[remarkGfm]} rehypePlugins={[rehypeSanitize]}>
            {asset.note}
          </Markdown>
        </div>
      )}
    </section>
  );
}

function Exhibit({ shown, spoiler }: { shown: SiteAsset; spoiler: boolean }): ReactNode {
  const { asset, file } = shown;
  const source = file === null ? null : `../../${file}`;
  if (source && asset.kind === 'sound')
    return <audio controls preload="none" src={source} aria-label={asset.path} />;
  if (source && asset.kind === 'picture') {
    return (
      <div className={spoiler ? 'plate veiled' : 'plate'}>
        <img src={source} alt={asset.path} />
      </div>
    );
  }
  if (source && asset.kind === 'model') {
    return (
      <div className={spoiler ? 'plate model veiled' : 'plate model'} data-model={source}>
        <Plate asset={shown} root="../../" spoiler={false} />
      </div>
    );
  }
  return asset.hasPreview ? <Plate asset={shown} root="../../" spoiler={spoiler} /> : null;
}

function Plate({
  asset,
  root,
  spoiler,
}: {
  asset: SiteAsset | null;
  root: string;
  spoiler: boolean;
}): ReactNode {
  const facts = asset?.asset.facts;
  if (facts?.kind === 'sound') {
    return (
      <span className="plate">
        <Waveform envelope={decodeEnvelope(facts.envelope)} />
      </span>
    );
  }
  if (!asset?.preview) return <span className="plate empty">{asset?.asset.kind ?? 'no asset'}</span>;
  return (
    <span className={spoiler ? 'plate veiled' : 'plate'}>
      <img src={root + asset.preview} alt="" loading="lazy" />
    </span>
  );
}

/** Extremes in slices of time, low, high, low, high, … as strokes. */
function Waveform({ envelope }: { envelope: readonly number[] }): ReactNode {
  const strokes = Array.from({ length: envelope.length / 2 }, (_, slice) => {
    const [low = 0, high = 0] = envelope.slice(slice * 2, slice * 2 + 2);
    return `M${slice + 0.5} ${(1 - high).toFixed(2)}V${(1.01 - low).toFixed(2)}`;
  });
  return (
    <svg
      className="waveform"
      viewBox={`0 0 ${Math.max(1, strokes.length)} 2`}
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <path d={strokes.join('')} vectorEffect="non-scaling-stroke" />
    </svg>
  );
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
  "form-action 'none'",
].join('; ');

function page({ name, rights, edition }: SiteTitle, root: string, heading: string, main: ReactNode): string {
  const markup = renderToStaticMarkup(
    <html lang="en">
      <head>
        <meta charSet="utf-8" />
        <meta httpEquiv="Content-Security-Policy" content={sitePolicy} />
        <meta name="referrer" content="no-referrer" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>{heading}</title>
        <link rel="icon" href="data:," />
        <link rel="stylesheet" href={`${root}site/site.css`} />
        <script type="module" src={`${root}site/site.js`} />
      </head>
      <body data-root={root}>
        {main}
        <footer>
          <p className="rights">{rights || `No statement on rights was given for ${name}.`}</p>
          <p>{`Edition ${edition}`}</p>
        </footer>
      </body>
    </html>,
  );
  return `<!doctype html>\n${markup}\n`;
}
