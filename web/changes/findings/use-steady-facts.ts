import { useEffect, useState } from 'react';
import type { FindingsPage, FindingsQuery } from '../../../contract/findings.ts';
import { useAppDispatch } from '../../ui/store.ts';
import { findingsApi, pageQuery } from './api.ts';

/**
 * While facts of a build come in, its findings would move about under people's hands. A list follows the newest facts until
 * somebody begins to go through it: from then on it keeps its order, until another question is asked or the newest order.
 * @returns the state of the facts that the list is made by, undefined for the newest, and a way to set it
 */
export function useKeptFacts(question: string): [number | undefined, (asOf: number | undefined) => void] {
  const [kept, setKept] = useState<{ question: string; asOf: number | undefined }>({
    question,
    asOf: undefined,
  });
  return [kept.question === question ? kept.asOf : undefined, (asOf) => setKept({ question, asOf })];
}

/** Keeps the order of a list that somebody goes through while facts are being read. What is shown stays shown. */
export function useKeepOrder(
  query: FindingsQuery,
  pages: readonly FindingsPage[],
  isUntouched: boolean,
  [asOf, setAsOf]: ReturnType<typeof useKeptFacts>,
): void {
  const dispatch = useAppDispatch();
  const [page] = pages;
  const isToKeep = !isUntouched && asOf === undefined && page?.evidence.state === 'reading';
  useEffect(() => {
    if (!isToKeep) return;
    for (const shown of pages)
      void dispatch(
        findingsApi.util.upsertQueryData(
          'findings',
          pageQuery({ ...query, asOf: shown.asOf }, shown.offset),
          shown,
        ),
      );
    setAsOf(page.asOf);
  });
}
