import { useSnackbar } from 'notistack';
import { useCallback, useEffect, useRef } from 'react';
import {
  passEventSchema,
  passOutcomeSchema,
  remarksSchema,
  type PassChange,
  type PassOutcome,
  type PassState,
  type Remark,
  type SpanKey,
} from '../../../contract/pass.ts';
import type { FindingsQuery } from '../../../contract/findings.ts';
import { plural } from '../../../core/figures.ts';
import { findingsApi } from '../findings/api.ts';
import { address, api, failureText, through } from '../../ui/api.ts';
import { personName } from '../../people/api.ts';
import { eventStream } from '../../ui/event-stream.ts';
import { store, useAppDispatch } from '../../ui/store.ts';

interface ChangeRequest extends SpanKey {
  seen: number;
  change: PassChange;
  paths?: string[];
  filter?: Record<string, string>;
}

const passApi = api.injectEndpoints({
  endpoints: (build) => ({
    changePass: build.mutation<PassOutcome, ChangeRequest>({
      query: (body) => ({ url: '/pass', method: 'PUT', body }),
      transformResponse: through(passOutcomeSchema),
    }),
    undoPass: build.mutation<PassOutcome, { batch: number }>({
      query: (body) => ({ url: '/pass/undo', method: 'POST', body }),
      transformResponse: through(passOutcomeSchema),
    }),
    remarks: build.query<Remark[], SpanKey & { path: string }>({
      query: (query) => address('/pass/remarks', query),
      transformResponse: through(remarksSchema),
      providesTags: ['remarks'],
    }),
    addRemark: build.mutation<Remark[], SpanKey & { path: string; body: string }>({
      query: (body) => ({ url: '/pass/remarks', method: 'POST', body }),
      transformResponse: through(remarksSchema),
      invalidatesTags: ['remarks', 'findings'],
    }),
  }),
});

export const { useRemarksQuery, useAddRemarkMutation } = passApi;

/** What findings are changed: these, or all that a list shows. */
export type Target = { paths: string[] } | { filter: FindingsQuery };

export interface Pass {
  change: (target: Target, change: PassChange, span?: SpanKey) => Promise<void>;
  /** Takes back what was done last here. */
  undo: () => Promise<void>;
}

/** Batches that were made in this window, the last one at the end: what undo takes back. */
const done: { span: SpanKey; batch: number }[] = [];

/** Marks of a span: changed here, heard of from others as they change them, and never overwritten unseen. */
export function usePass(span: SpanKey, revision: number): Pass {
  const dispatch = useAppDispatch();
  const { enqueueSnackbar } = useSnackbar();
  // What was heard may be newer than the page that was asked for.
  const seen = useRef(0);
  useEffect(() => {
    seen.current = Math.max(seen.current, revision);
  }, [revision]);
  const { channel, from, to } = span;

  useEffect(() => {
    const stream = eventStream();
    const unfollow = stream.follow({ channel, from, to });
    const leave = stream.listen('marks', (data) => {
      const told = passEventSchema.parse(data);
      seen.current = Math.max(seen.current, told.revision);
      if (told.states === null) dispatch(api.util.invalidateTags(['findings']));
      else showStates({ channel, from, to }, told.states);
      if (told.by !== personName()) enqueueSnackbar(`${told.by || 'Somebody'}: ${told.what}`);
    });
    return () => {
      leave();
      unfollow();
    };
  }, [channel, from, to, dispatch, enqueueSnackbar]);

  const settle = useCallback(
    ({ conflicts }: PassOutcome, of: SpanKey): void => {
      const [first] = conflicts;
      if (!first) return;
      showStates(of, Object.fromEntries(conflicts.map(({ path, state }) => [path, state])));
      enqueueSnackbar(
        conflicts.length === 1
          ? `${first.state.changedBy || 'Somebody'} changed it a moment ago: it is left as it is. Look, and do it again if you still want to.`
          : `${plural(conflicts.length, 'finding')} that others changed meanwhile were left as they are.`,
        { variant: 'warning', autoHideDuration: 7000 },
      );
    },
    [enqueueSnackbar],
  );

  return {
    async change(target, change, of = span) {
      const request = { ...of, seen: seen.current, change };
      const { data, error } = await dispatch(
        passApi.endpoints.changePass.initiate(
          'paths' in target
            ? { ...request, paths: target.paths }
            : { ...request, filter: wordsOf(target.filter) },
        ),
      );
      if (!data) {
        enqueueSnackbar(failureText(error), { variant: 'error' });
        return;
      }
      settle(data, of);
      if (data.batch > 0) done.push({ span: of, batch: data.batch });
      if ('filter' in target && data.changed > 0)
        enqueueSnackbar(`${plural(data.changed, 'finding')} changed. u takes it back.`);
    },
    async undo() {
      const last = done.pop();
      if (!last) {
        enqueueSnackbar('There is nothing to take back.');
        return;
      }
      const { data, error } = await dispatch(passApi.endpoints.undoPass.initiate({ batch: last.batch }));
      if (!data) enqueueSnackbar(failureText(error), { variant: 'error' });
      else {
        settle(data, last.span);
        if (data.changed > 0) enqueueSnackbar(`Took ${plural(data.changed, 'mark')} back.`);
      }
    },
  };
}

function wordsOf(query: FindingsQuery): Record<string, string> {
  return Object.fromEntries(Object.entries(query).map(([key, value]) => [key, String(value)]));
}

/** Puts states of a span into every list of its findings that is held, with its counts. */
function showStates(span: SpanKey, states: Record<string, PassState>): void {
  for (const args of findingsApi.util.selectCachedArgsForQuery(store.getState(), 'findings'))
    store.dispatch(
      findingsApi.util.updateQueryData('findings', args, (page) => {
        const isOf = ({ from, to }: Pick<SpanKey, 'from' | 'to'>): boolean =>
          args.channel === span.channel && from === span.from && to === span.to;
        for (const finding of page.findings) {
          const state = states[finding.path];
          // What was left open before stands in this list, and is marked in the span that it is of.
          if (!state || !isOf(finding.carriedFrom ?? args)) continue;
          if (!finding.carriedFrom) {
            page.marks[finding.pass.mark]--;
            page.marks[state.mark]++;
          }
          finding.pass = state;
        }
        if (!isOf(args)) return;
        const said = Object.values(states);
        page.labels = [...new Set([...page.labels, ...said.flatMap(({ labels }) => labels)])].sort();
        page.people = [
          ...new Set([...page.people, ...said.flatMap(({ assignee, changedBy }) => [assignee, changedBy])]),
        ]
          .filter(Boolean)
          .sort();
        page.revision = Math.max(page.revision, ...Object.values(states).map(({ revision }) => revision));
      }),
    );
}
