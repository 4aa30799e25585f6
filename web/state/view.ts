import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

/** What the pages share beyond what the server knows. */
export interface ViewState {
  scheme: 'daylight' | 'basalt';
  /** The source last chosen; Inspect and Convert open it. */
  source: string | null;
  /** What came to pass by itself and is told once, the newest last. */
  notices: Notice[];
}

/** A short message about a source that opens it. */
export interface Notice {
  source: string;
  sentence: string;
  severity: 'note' | 'doubt';
}

const begun: ViewState = { scheme: 'daylight', source: null, notices: [] };

export const viewSlice = createSlice({
  name: 'view',
  initialState: begun,
  reducers: {
    schemeSwitched(state) {
      state.scheme = state.scheme === 'daylight' ? 'basalt' : 'daylight';
    },
    sourceChosen(state, { payload }: PayloadAction<string>) {
      state.source = payload;
    },
    noticed(state, { payload: { source, sentence, severity } }: PayloadAction<Notice>) {
      const others = state.notices.filter((notice) => notice.source !== source);
      state.notices = [...others, { source, sentence, severity }].slice(-5);
    },
    noticeRead(state) {
      state.notices.shift();
    },
  },
});

export const { schemeSwitched, sourceChosen, noticed, noticeRead } = viewSlice.actions;
