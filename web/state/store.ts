import { configureStore } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { api } from '../api/api.ts';
import { namingSlice } from './naming.ts';
import { receiversSlice } from './receivers.ts';
import { viewSlice } from './view.ts';
import { stageSlice } from '../stage/state.ts';

export const store = configureStore({
  reducer: {
    [api.reducerPath]: api.reducer,
    view: viewSlice.reducer,
    stage: stageSlice.reducer,
    naming: namingSlice.reducer,
    receivers: receiversSlice.reducer,
  },
  middleware: (all) => all().concat(api.middleware),
});

type State = ReturnType<typeof store.getState>;

export const useAppDispatch = useDispatch.withTypes<typeof store.dispatch>();
export const useAppSelector = useSelector.withTypes<State>();
