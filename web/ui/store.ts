import { configureStore, createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import type { Job, JobsEvent } from '../../contract/work.ts';
import { api } from './api.ts';
import type { Mode } from './theme.ts';

export type ModeChoice = Mode | 'system';

const storedMode = (): ModeChoice => {
  const mode = localStorage.getItem('mode');
  return mode === 'light' || mode === 'dark' ? mode : 'system';
};

const look = createSlice({
  name: 'look',
  initialState: () => ({ mode: storedMode() }),
  reducers: {
    modeChosen(state, { payload }: PayloadAction<ModeChoice>) {
      state.mode = payload;
      localStorage.setItem('mode', payload);
    },
  },
});

/** Jobs as the server last told of them; `isLive` while its stream of events is open. */
const work = createSlice({
  name: 'work',
  initialState: { jobs: [] as Job[], isLive: false, isKnown: false },
  reducers: {
    jobsTold(state, { payload: { isAll, jobs, gone } }: PayloadAction<JobsEvent>) {
      const changed = new Map(jobs.map((job) => [job.id, job]));
      const kept = isAll
        ? []
        : state.jobs.filter(({ id }) => !gone.includes(id)).map((job) => changed.get(job.id) ?? job);
      const known = new Set(kept.map(({ id }) => id));
      // The newest first, as the server lists them.
      state.jobs = [...jobs.filter(({ id }) => !known.has(id)), ...kept];
      state.isLive = true;
      state.isKnown = true;
    },
    streamLost(state) {
      state.isLive = false;
    },
  },
});

/** The newest change by anybody that this window has heard of. */
const history = createSlice({
  name: 'history',
  initialState: { seen: 0 },
  reducers: {
    changesSeen(state, { payload }: PayloadAction<number>) {
      state.seen = Math.max(state.seen, payload);
    },
  },
});

export const { modeChosen } = look.actions;
export const { jobsTold, streamLost } = work.actions;
export const { changesSeen } = history.actions;

export const store = configureStore({
  reducer: {
    look: look.reducer,
    work: work.reducer,
    history: history.reducer,
    [api.reducerPath]: api.reducer,
  },
  middleware: (defaults) =>
    defaults({ serializableCheck: false, immutableCheck: false }).concat(api.middleware),
});

type State = ReturnType<typeof store.getState>;
export const useAppDispatch = useDispatch.withTypes<typeof store.dispatch>();
export const useAppSelector = useSelector.withTypes<State>();
