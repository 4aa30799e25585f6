import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

/** What the pages share beyond what the server knows. */
export interface ViewState {
  scheme: 'daylight' | 'basalt';
  /** The source last chosen; Inspect and Convert open it. */
  source: string | null;
}

const kept = (): ViewState['scheme'] => {
  const said = localStorage.getItem('shale-scheme');
  if (said === 'daylight' || said === 'basalt') return said;
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'basalt' : 'daylight';
};

export const viewSlice = createSlice({
  name: 'view',
  initialState: (): ViewState => ({ scheme: kept(), source: sessionStorage.getItem('shale-source') }),
  reducers: {
    schemeSwitched(state) {
      state.scheme = state.scheme === 'daylight' ? 'basalt' : 'daylight';
      localStorage.setItem('shale-scheme', state.scheme);
    },
    sourceChosen(state, { payload }: PayloadAction<string>) {
      state.source = payload;
      sessionStorage.setItem('shale-source', payload);
    },
  },
});

export const { schemeSwitched, sourceChosen } = viewSlice.actions;
