import { configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { api } from '../api/api.ts';
import { keepChanges, readKept, type KeptState } from './kept.ts';
import { namingSlice } from './naming.ts';
import { receiversSlice } from './receivers.ts';
import { viewSlice } from './view.ts';
import { stageSlice } from '../stage/state.ts';

const shelves = { local: localStorage, session: sessionStorage };
let kept: KeptState = readKept(shelves, matchMedia('(prefers-color-scheme: dark)').matches);

export const store = configureStore({
  preloadedState: { ...kept },
  reducer: {
    [api.reducerPath]: api.reducer,
    view: viewSlice.reducer,
    stage: stageSlice.reducer,
    naming: namingSlice.reducer,
    receivers: receiversSlice.reducer,
  },
  middleware: (all) => all().concat(api.middleware),
});

store.subscribe(() => {
  const { view, naming, receivers } = store.getState();
  const now = { view, naming, receivers };
  keepChanges(shelves, kept, now);
  kept = now;
});

type State = ReturnType<typeof store.getState>;

export const useAppDispatch = useDispatch.withTypes<typeof store.dispatch>();
export const useAppSelector = useSelector.withTypes<State>();
