import type { ReactNode } from 'react';
import type { EditionBuild } from '../../../contract/editions.ts';
import { listAddress } from '../../../core/catalogue/address.ts';
import { Cards, type CardEntry } from './cards.tsx';
import { entriesOnPage } from './list-pages.tsx';
import { rootOf, type Page } from './layout.tsx';

export function buildPath({ channel, label }: Pick<EditionBuild, 'channel' | 'label'>): string {
  return `builds/${listAddress(`${channel} ${label}`)}/index.html`;
}

/** What a build brought to the catalogue: what came, what changed, what went. */
export function buildPage(build: EditionBuild, cards: ReadonlyMap<string, CardEntry>): Page {
  const path = buildPath(build);
  const root = rootOf(path);
  const groups = [
    ['Came with it', build.added],
    ['Changed with it', build.changed],
    ['Went with it', build.removed],
  ] as const;
  return {
    ...{ path, heading: `Build ${build.label}` },
    main: (
      <>
        <h1>{`Build ${build.label}`}</h1>
        <p className="lead">{`${build.channel}, ${build.releasedAt.slice(0, 10)}: ${broughtText(build)}`}</p>
        {groups.map(([name, addresses]) =>
          addresses.length === 0 ? null : (
            <section key={name}>
              <h2>{`${name}: ${addresses.length.toLocaleString('en')}`}</h2>
              <Cards
                entries={addresses.slice(0, entriesOnPage).flatMap((address) => cards.get(address) ?? [])}
                root={root}
              />
              {addresses.length > entriesOnPage && (
                <p>
                  <a href={`${root}search/index.html?build=${encodeURIComponent(build.label)}`}>
                    {`All ${addresses.length.toLocaleString('en')} by search`}
                  </a>
                </p>
              )}
            </section>
          ),
        )}
      </>
    ),
  };
}

export function broughtText({ added, changed, removed }: EditionBuild): string {
  const parts = [
    [added.length, 'new'],
    [changed.length, 'changed'],
    [removed.length, 'gone'],
  ] as const;
  const told = parts
    .filter(([count]) => count > 0)
    .map(([count, what]) => `${count.toLocaleString('en')} ${what}`);
  return told.length === 0 ? 'nothing of the catalogue changed' : told.join(', ');
}

export function buildsPage(builds: readonly EditionBuild[]): Page {
  return {
    path: 'builds/index.html',
    heading: 'Builds',
    main: (
      <>
        <h1>Builds</h1>
        <BuildList builds={builds} root="../" />
      </>
    ),
  };
}

export function BuildList({ builds, root }: { builds: readonly EditionBuild[]; root: string }): ReactNode {
  return (
    <ol className="builds" reversed>
      {builds.map((build) => (
        <li key={`${build.channel} ${build.label}`}>
          <a href={root + buildPath(build)}>{build.label}</a>
          <span className="inner">{`${build.channel}, ${build.releasedAt.slice(0, 10)}`}</span>
          <span>{broughtText(build)}</span>
        </li>
      ))}
    </ol>
  );
}
