import { useCallback, useEffect, useRef, useState } from 'react';
import type { Folder, FolderCounts, ListedAsset } from '../../contract/assets.ts';
import { parseQuery, QueryError } from '../../core/search/query.ts';
import { useLazyAssetListQuery, useLazyFolderQuery } from '../viewer/assets-api.ts';

export interface ContentsQuery {
  channel: number;
  build: string;
  /** Of all builds, in a search. */
  isEverywhere: boolean;
  path: string;
  text: string;
  kind: string;
  sort: string;
  down: '0' | '1';
}

export type LibraryAsset = ListedAsset & { why?: string };

export interface Contents {
  folders: Folder['folders'];
  /** Of the folder and all below it; null in a search. */
  counts: FolderCounts | null;
  /** Assets, without the folders. */
  total: number;
  isCut: boolean;
  at: (index: number) => LibraryAsset | undefined;
  /** Sees to it that these are there. */
  load: (first: number, last: number) => Promise<void>;
  isLoading: boolean;
  error: Parameters<typeof import('../ui/api.ts').failureText>[0];
  retry: () => void;
}

const pageSize = 200;

interface Known {
  folders: Folder['folders'];
  counts: FolderCounts | null;
  total: number;
  isCut: boolean;
}

const nothing: Known = { folders: [], counts: null, total: 0, isCut: false };

/** What is wrong with a query, as it stands while it is typed: the server is not asked for half a word. */
function faultIn(text: string): { message: string } | undefined {
  try {
    parseQuery(text);
    return undefined;
  } catch (error) {
    if (error instanceof QueryError) return { message: error.message };
    throw error;
  }
}

/** What is in a folder or answers to a search, page by page as it is looked at. Made anew for another query. */
export function useContents({ isEverywhere, path, text, kind, ...query }: ContentsQuery): Contents {
  const isSearch = text !== '' || kind !== '';
  const [getFolder] = useLazyFolderQuery();
  const [getList] = useLazyAssetListQuery();
  const [known, setKnown] = useState<Known>(nothing);
  const [error, setError] = useState<Contents['error']>();
  const [isLoading, setLoading] = useState(true);
  const asked = useRef(new Map<number, Promise<void>>());
  // Who waited for a page finds it here at once, before the interface is drawn anew.
  const pages = useRef(new Map<number, readonly LibraryAsset[]>());
  const { channel, build, sort, down } = query;

  const loadPage = useCallback(
    async (page: number): Promise<void> => {
      const fault = faultIn(text);
      if (fault) {
        setLoading(false);
        setError(fault);
        return;
      }
      const where = { channel, sort, down, offset: page * pageSize, limit: pageSize };
      const answer = isSearch
        ? await getList({ ...where, build: isEverywhere ? '' : build, text, kind }, true)
        : await getFolder({ ...where, build, path }, true);
      setLoading(false);
      if (answer.error || !answer.data) {
        asked.current.delete(page);
        setError(answer.error);
        return;
      }
      const { data } = answer;
      setError(undefined);
      pages.current.set(page, data.assets);
      setKnown((before) => ({
        folders: 'folders' in data ? data.folders : [],
        counts: 'counts' in data ? data.counts : null,
        total: Math.max(before.total, data.total),
        isCut:
          'isCut' in data && (data.isCut || before.isCut) && data.total >= before.total ? data.isCut : false,
      }));
    },
    [getFolder, getList, build, channel, down, isEverywhere, isSearch, kind, path, sort, text],
  );

  const load = useCallback(
    async (first: number, last: number): Promise<void> => {
      const pages: Promise<void>[] = [];
      for (
        let page = Math.floor(Math.max(0, first) / pageSize);
        page <= Math.floor(Math.max(0, last) / pageSize);
        page++
      ) {
        const going = asked.current.get(page) ?? loadPage(page);
        asked.current.set(page, going);
        pages.push(going);
      }
      await Promise.all(pages);
    },
    [loadPage],
  );

  const at = useCallback(
    (index: number): LibraryAsset | undefined =>
      pages.current.get(Math.floor(index / pageSize))?.[index % pageSize],
    [],
  );

  useEffect(() => void load(0, 0), [load]);

  return {
    ...known,
    at,
    load,
    isLoading,
    error,
    retry: () => {
      asked.current.clear();
      setLoading(true);
      void load(0, 0);
    },
  };
}
