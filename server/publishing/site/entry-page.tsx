import type { ReactNode } from 'react';
import Markdown from 'react-markdown';
import rehypeSanitize from 'rehype-sanitize';
import remarkGfm from 'remark-gfm';
import type { EditionAsset, EditionEntry } from '../../../contract/editions.ts';
import { listAddress } from '../../../core/catalogue/address.ts';
import { bytesText } from '../../../core/figures.ts';
import { stepText } from '../../../core/notes/step-text.ts';
import { waveform } from './cards.tsx';
import { rootOf, type Page, type SiteTitle } from './layout.tsx';

export const entryPath = (address: string): string => `entries/${address}.html`;

/** @param sums SHA-256 of the site's files by path */
export function entryPage(title: SiteTitle, entry: EditionEntry, sums: ReadonlyMap<string, string>): Page {
  const path = entryPath(entry.address);
  const root = rootOf(path);
  const body = <EntryBody entry={entry} root={root} sums={sums} />;
  const picture = entry.assets.find(({ preview }) => preview !== null)?.preview ?? null;
  if (!entry.spoiler)
    return {
      ...{ path, heading: entry.name, description: entry.summary.slice(0, 200), picture },
      data: dataOf(title, entry, picture),
      main: (
        <>
          <h1>{entry.name}</h1>
          {body}
        </>
      ),
    };
  return {
    ...{ path, heading: 'A spoiler' },
    main: (
      <>
        <h1>A spoiler</h1>
        <p className="spoiler-note">
          This entry tells of something that players may want to find by themselves.
        </p>
        <details className="cover">
          <summary>Show it</summary>
          <h2>{entry.name}</h2>
          {body}
        </details>
      </>
    ),
  };
}

function dataOf({ name, rights }: SiteTitle, entry: EditionEntry, picture: string | null): object {
  return {
    '@context': 'https://schema.org',
    '@type': 'CreativeWork',
    identifier: String(entry.id),
    name: entry.name,
    alternateName: [
      ...new Set([entry.internalName, ...entry.aliases, ...entry.names.map((one) => one.name)]),
    ].filter(Boolean),
    ...(entry.summary && { description: entry.summary }),
    ...(entry.tags.length > 0 && { keywords: entry.tags.join(', ') }),
    ...(entry.credits && { creditText: entry.credits }),
    ...((entry.rights || rights) && { copyrightNotice: entry.rights || rights }),
    ...(picture !== null && { image: `../${picture}` }),
    dateModified: entry.changedAt,
    isPartOf: { '@type': 'VideoGame', name },
  };
}

function EntryBody({
  entry,
  root,
  sums,
}: {
  entry: EditionEntry;
  root: string;
  sums: ReadonlyMap<string, string>;
}): ReactNode {
  return (
    <>
      {entry.summary && <p className="lead">{entry.summary}</p>}
      {entry.assets.map((asset, at) => (
        <AssetSection key={asset.path} {...{ entry, asset, root, sums }} number={at + 1} />
      ))}
      <h2>About it</h2>
      <dl>
        <Row name="In the files">{entry.internalName && <code>{entry.internalName}</code>}</Row>
        <Row name="Also called">{entry.aliases.join(', ')}</Row>
        {entry.names.map(({ language, name }) => (
          <Row key={`${language} ${name}`} name={`Name (${language})`}>
            <span lang={language}>{name}</span>
          </Row>
        ))}
        <Row name="Kind of thing">
          {entry.thing && (
            <a href={`${root}lists/thing/${listAddress(entry.thing)}/index.html`}>{entry.thing}</a>
          )}
        </Row>
        <Row name="Tags">
          {entry.tags.length > 0 &&
            entry.tags.map((tag, at) => (
              <span key={tag}>
                {at > 0 && ', '}
                <a href={`${root}lists/tag/${listAddress(tag)}/index.html`}>{tag}</a>
              </span>
            ))}
        </Row>
        {entry.relations.map(({ as, address, name }) => (
          <Row key={`${as} ${address}`} name={`${as.charAt(0).toUpperCase()}${as.slice(1)}`}>
            <a href={`${address}.html`}>{name}</a>
          </Row>
        ))}
        <Row name="Credits">{entry.credits}</Row>
        <Row name="Sources">{entry.sources}</Row>
        <Row name="Rights">{entry.rights}</Row>
        <Row name="Data">
          <a href={`${entry.address}.json`}>{`${entry.address}.json`}</a>
        </Row>
      </dl>
    </>
  );
}

function Row({ name, children }: { name: string; children: ReactNode }): ReactNode {
  if (!children) return null;
  return (
    <>
      <dt>{name}</dt>
      <dd>{children}</dd>
    </>
  );
}

function AssetSection({
  entry,
  asset,
  root,
  sums,
  number,
}: {
  entry: EditionEntry;
  asset: EditionAsset;
  root: string;
  sums: ReadonlyMap<string, string>;
  number: number;
}): ReactNode {
  const name = asset.path.slice(asset.path.lastIndexOf('/') + 1);
  const sum = asset.shown === null ? undefined : sums.get(asset.shown);
  return (
    <section>
      <h2>{name}</h2>
      <Exhibit asset={asset} root={root} />
      <dl>
        <Row name="Path">
          <code>{asset.path}</code>
        </Row>
        <Row name="What it is">
          {[asset.kind, asset.format, asset.facts, bytesText(asset.bytes)].filter(Boolean).join(', ')}
        </Row>
        <Row name="Along the builds">
          {asset.history.map(({ build, what }, at) => (
            <span key={at}>
              {at > 0 && ', '}
              {`${what} in `}
              <a href={`${root}builds/${listAddress(`${entry.channel} ${build}`)}/index.html`}>{build}</a>
            </span>
          ))}
        </Row>
        {entry.downloads && asset.shown !== null && (
          <Row name="File">
            <a href={root + encodeURI(asset.shown)} download={shownName(asset.shown)}>
              {shownName(asset.shown)}
            </a>
            {sum && <code className="sum">{`SHA-256 ${sum}`}</code>}
          </Row>
        )}
      </dl>
      {asset.note && <NoteSection note={asset.note} {...{ asset, root, number }} address={entry.address} />}
    </section>
  );
}

/** What a file is called by whoever keeps it: without what tells it from others of its name. */
function shownName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1).replace(/^[0-9a-f]+-/, '');
}

/** How it was taken out: words, and numbered steps that another person can repeat. */
function NoteSection({
  note,
  asset,
  root,
  number,
  address,
}: {
  note: NonNullable<EditionAsset['note']>;
  asset: EditionAsset;
  address: string;
  root: string;
  number: number;
}): ReactNode {
  return (
    <div className="note">
      <h3>How it was taken out</h3>
      {note.body && <Formatted text={note.body} />}
      <ol>
        {note.steps.map((step, at) => {
          const { what, parameters } = stepText(step);
          const hasPicture = step.does === 'find' && step.path === asset.path && asset.preview !== null;
          return (
            <li key={at}>
              {hasPicture && <img className="step" src={root + asset.preview} alt="" loading="lazy" />}
              <p>{what}</p>
              {step.words && <Formatted text={step.words} />}
              {parameters.length > 0 && (
                <dl>
                  {parameters.map(({ name, value }, place) => (
                    <Row key={place} name={name}>
                      <code>{value}</code>
                    </Row>
                  ))}
                </dl>
              )}
            </li>
          );
        })}
      </ol>
      <p>
        <a href={notePath(address, number)}>The note as JSON</a>
      </p>
    </div>
  );
}

/** Beside the page of its entry. */
export function notePath(address: string, number: number): string {
  return `${address}.note-${number}.json`;
}

function Formatted({ text }: { text: string }): ReactNode {
  return (
    <Markdown remarkPlugins={[remarkGfm]} rehypePlugins={[rehypeSanitize]}>
      {text}
    </Markdown>
  );
}

function Exhibit({ asset, root }: { asset: EditionAsset; root: string }): ReactNode {
  const { kind, shown, preview, envelope, loopSeconds, path } = asset;
  const source = shown === null ? null : root + encodeURI(shown);
  if (kind === 'sound')
    return (
      <div className="sound">
        {envelope && <span className="plate" dangerouslySetInnerHTML={{ __html: waveform(envelope) }} />}
        {source && (
          <audio
            controls
            preload="none"
            src={source}
            aria-label={path}
            data-loop={loopSeconds ? loopSeconds.join(' ') : undefined}
          />
        )}
        {loopSeconds && (
          <p>{`Loops from ${loopSeconds[0].toFixed(2)} s to ${loopSeconds[1].toFixed(2)} s.`}</p>
        )}
      </div>
    );
  if (preview === null) return null;
  const picture = <img src={root + preview} alt={path} />;
  if (kind === 'model' && source)
    return (
      <div className="plate model" data-model={source}>
        {picture}
      </div>
    );
  if (kind === 'picture' && source)
    return (
      <a className="plate" href={source} aria-label={`${path}, full size`}>
        {picture}
      </a>
    );
  return <div className="plate">{picture}</div>;
}
