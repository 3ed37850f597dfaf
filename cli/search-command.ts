import { assetListSchema, type SearchHit } from '../contract/assets.ts';
import { bytesText } from '../core/figures.ts';
import { QueryError, parseQuery } from '../core/search/query.ts';
import { dataPath, getJson, withApplication } from './connection.ts';
import { findChannel, findTitle } from './find-title.ts';
import type { CommonOptions } from './options.ts';
import { UsageError } from './usage-error.ts';

const pageSize = 10_000;
const mostHits = 100_000;

export interface SearchOptions extends CommonOptions {
  title: string;
  build?: string;
  channel?: string;
  json?: boolean;
}

/** Prints what is found, by path: at most a hundred thousand of a channel. */
export async function searchCommand(
  words: string[],
  { title, build, channel, json, data }: SearchOptions,
): Promise<void> {
  const text = words.join(' ').trim();
  if (text === '') throw new UsageError('A query is needed.');
  checkQuery(text);
  const hits = await withApplication(dataPath(data), async (application) => {
    const known = await findTitle(application, title);
    const name = channel ?? (build === undefined ? undefined : 'main');
    const channels = name === undefined ? known.channels : [findChannel(known, name)];
    const hits: SearchHit[] = [];
    for (const { id } of channels)
      for (let offset = 0; offset < mostHits; offset += pageSize) {
        const query = new URLSearchParams({
          channel: String(id),
          build: build ?? '',
          text,
          offset: String(offset),
          limit: String(pageSize),
        });
        const { assets } = assetListSchema.parse(await getJson(application, `assets?${query}`));
        hits.push(...assets);
        if (assets.length < pageSize) break;
      }
    return hits.sort((a, b) => (a.path < b.path ? -1 : a.path > b.path ? 1 : 0));
  });
  for (const { path, build: label, kind, size, hash } of hits)
    process.stdout.write(
      json
        ? `${JSON.stringify({ path, build: label, kind, size, hash })}\n`
        : `${label.padEnd(10)} ${kind.padEnd(8)} ${bytesText(size).padStart(10)}  ${path}\n`,
    );
}

function checkQuery(text: string): void {
  try {
    parseQuery(text);
  } catch (error) {
    throw error instanceof QueryError ? new UsageError(`${error.message}.`) : error;
  }
}
