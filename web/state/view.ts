import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { Spec } from '@shale/core';

/** What the pages share beyond what the server knows. */
export interface ViewState {
  scheme: 'daylight' | 'basalt';
  /** The source last chosen; Inspect and Convert open it. */
  source: string | null;
  /** The list of sources that Convert had open last; null where it had one. */
  many: string | null;
  /** What came to pass by itself and is told once, the newest last. */
  notices: Notice[];
  /** Jobs that stopped or failed and were seen since. */
  seen: string[];
  /** What a receipt did, to be done for the sources that are selected next. */
  meant: Meant | null;
  /** Whether sentences tell what stays as it is, too. */
  whole: boolean;
}

/** What is wanted of sources that are not chosen yet. */
export interface Meant {
  outputs: Spec[];
  /** Read aloud. */
  words: string;
}

/** A short message that opens what it is about. */
export interface Notice {
  /** Of a source, or of a job. */
  about: string;
  kind: 'source' | 'job';
  sentence: string;
  severity: 'note' | 'doubt';
}

const begun: ViewState = {
  ...{ scheme: 'daylight', source: null, many: null, notices: [], seen: [], meant: null },
  whole: false,
};

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
    /** Convert opens a list of sources, or one of them where it is null. */
    manyOpened(state, { payload }: PayloadAction<string | null>) {
      state.many = payload;
    },
    noticed(state, { payload: { about, kind, sentence, severity } }: PayloadAction<Notice>) {
      const others = state.notices.filter((notice) => notice.about !== about);
      state.notices = [...others, { about, kind, sentence, severity }].slice(-5);
    },
    troublesSeen(state, { payload }: PayloadAction<string[]>) {
      const fresh = payload.filter((id) => !state.seen.includes(id));
      if (fresh.length > 0) state.seen = [...state.seen, ...fresh].slice(-500);
    },
    /** What goes on may come to trouble again. */
    troubleGone(state, { payload }: PayloadAction<string>) {
      if (state.seen.includes(payload)) state.seen = state.seen.filter((id) => id !== payload);
    },
    wishMeant(state, { payload }: PayloadAction<Meant | null>) {
      state.meant = payload;
    },
    wholeSwitched(state) {
      state.whole = !state.whole;
    },
    noticeRead(state) {
      state.notices.shift();
    },
  },
});

export const {
  schemeSwitched,
  sourceChosen,
  manyOpened,
  noticed,
  noticeRead,
  troublesSeen,
  troubleGone,
  wishMeant,
  wholeSwitched,
} = viewSlice.actions;
